import { colour } from '../../theme'
import { type ElementKind, num, type Renderer, str } from '../element'
import { attr, make } from '../svg'
import { dashes, heads } from '../lines'

const draw: Renderer = (g, e) => {
  make(g, 'rect', { y: -6, width: e.w, height: e.h + 12, fill: 'transparent' })
  const l = make(g, 'line', { x1: 0, x2: e.w })
  const up = e.props.rising === true
  const [y1, y2] = up ? [e.h, 0] : [0, e.h]
  const ends = heads(g, [0, y1, -e.w, y1 - y2], [e.w, y2, e.w, y2 - y1])
  return (p) => {
    attr(l, 'y1', p.rising ? e.h : 0)
    attr(l, 'y2', p.rising ? 0 : e.h)
    attr(l, 'stroke', colour(p.stroke))
    attr(l, 'stroke-width', num(p.strokeWidth, 2))
    attr(l, 'stroke-dasharray', dashes[str(p.dash)] ?? 'none')
    ends(p)
  }
}

const kind: ElementKind = {
  name: 'line',
  draw,
  sample: { box: '0 -20 160 40' },
}
export default kind
