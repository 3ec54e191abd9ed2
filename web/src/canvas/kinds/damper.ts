import { type ElementKind, num, type Renderer } from '../element'
import { attr, make } from '../svg'
import { ink } from '../marks'

const draw: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'var(--c-sheet)', stroke: ink, 'stroke-width': 2 })
  const flap = make(g, 'line', { 'stroke-width': 3.5, stroke: ink, 'stroke-linecap': 'round' })
  make(g, 'circle', { cx: e.w / 2, cy: e.h / 2, r: 3, fill: ink })
  return (p) => {
    const a = (Math.max(0, Math.min(100, num(p.position))) / 100) * (Math.PI / 2)
    const half = Math.min(e.w / 2 - 4, e.h / 2 - 3 + ((e.w - e.h) / 2) * Math.cos(a))
    attr(flap, 'x1', e.w / 2 - Math.cos(a) * half)
    attr(flap, 'x2', e.w / 2 + Math.cos(a) * half)
    attr(flap, 'y1', e.h / 2 + Math.sin(a) * (e.h / 2 - 3))
    attr(flap, 'y2', e.h / 2 - Math.sin(a) * (e.h / 2 - 3))
  }
}

const kind: ElementKind = {
  name: 'damper',
  draw,
}
export default kind
