import { colour } from '../../theme'
import { type ElementKind, num, type Renderer } from '../element'
import { attr, make } from '../svg'

const draw: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const a = make(g, 'path')
  return (p) => {
    const from = (num(p.from) * Math.PI) / 180
    const sweep = Math.max(-359.99, Math.min(359.99, num(p.to, 90) - num(p.from)))
    const to = from + (sweep * Math.PI) / 180
    const at = (t: number) => `${e.w / 2 + (Math.sin(t) * e.w) / 2} ${e.h / 2 - (Math.cos(t) * e.h) / 2}`
    attr(
      a,
      'd',
      `M${at(from)}A${e.w / 2} ${e.h / 2} 0 ${Math.abs(sweep) > 180 ? 1 : 0} ${sweep > 0 ? 1 : 0} ${at(to)}${p.pie ? `L${e.w / 2} ${e.h / 2}Z` : ''}`,
    )
    attr(a, 'fill', colour(p.fill))
    attr(a, 'stroke', colour(p.stroke))
    attr(a, 'stroke-width', num(p.strokeWidth, 2))
  }
}

const kind: ElementKind = {
  name: 'arc',
  draw,
}
export default kind
