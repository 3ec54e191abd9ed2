import { colour } from '../../theme'
import { type ElementKind, num, type Renderer, str } from '../element'
import { attr, make, text } from '../svg'

/** A group box: its label breaks the upper edge. */
const draw: Renderer = (g, e) => {
  const box = make(g, 'rect', { width: e.w, height: e.h, rx: 4 })
  const t = make(g, 'text', { x: 16, y: 26, 'font-size': 17, 'font-weight': 650, fill: 'var(--c-ink)' })
  return (p) => {
    attr(box, 'fill', colour(p.fill))
    attr(box, 'stroke', colour(p.stroke))
    attr(box, 'stroke-width', num(p.strokeWidth, 1))
    text(t, str(p.caption))
  }
}

const kind: ElementKind = {
  name: 'frame',
  draw,
}
export default kind
