import { colour } from '../../theme'
import { type ElementKind, num, type Renderer, str } from '../element'
import { attr, make } from '../svg'
import { track } from '../outline'
import { dashes, heads } from '../lines'

const draw: Renderer = (g, e) => {
  const pts = e.points?.length ? e.points : [0, 1, 0.35, 0.2, 0.65, 0.8, 1, 0]
  const d = track(e, pts)
  make(g, 'path', { d, fill: 'none', stroke: 'transparent', 'stroke-width': 12 })
  const l = make(g, 'path', { d, fill: 'none', 'stroke-linejoin': 'round' })
  const at = (i: number): [number, number] => [pts[i * 2]! * e.w, pts[i * 2 + 1]! * e.h]
  const n = pts.length / 2
  const [a, b, y, z] = [at(0), at(1), at(n - 2), at(n - 1)]
  const ends = heads(g, [a[0], a[1], a[0] - b[0], a[1] - b[1]], [z[0], z[1], z[0] - y[0], z[1] - y[1]])
  return (p) => {
    attr(l, 'stroke', colour(p.stroke))
    attr(l, 'stroke-width', num(p.strokeWidth, 2))
    attr(l, 'stroke-dasharray', dashes[str(p.dash)] ?? 'none')
    ends(p)
  }
}

const kind: ElementKind = {
  name: 'polyline',
  draw,
}
export default kind
