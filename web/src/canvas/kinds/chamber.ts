import { colour } from '../../theme'
import { type ElementKind, type Renderer } from '../element'
import { attr, make } from '../svg'
import { ink } from '../marks'

const draw: Renderer = (g, e) => {
  const roof = Math.min(34, e.h * 0.09)
  make(g, 'path', {
    d: `M0 ${roof}L${roof * 1.1} 4H${e.w - roof * 1.1}L${e.w} ${roof}Z`,
    fill: 'var(--c-metal)',
    stroke: ink,
    'stroke-width': 2,
    'stroke-linejoin': 'round',
  })
  const body = make(g, 'rect', { y: roof, width: e.w, height: e.h - roof, stroke: ink, 'stroke-width': 2 })
  const air = 'fill:none;stroke:var(--c-quiet);stroke-width:1.5;stroke-dasharray:6 6'
  const m = e.h - roof
  make(g, 'path', {
    d: `M${e.w * 0.87} ${roof + m * 0.28}C${e.w * 0.95} ${roof + m * 0.45} ${e.w * 0.95} ${roof + m * 0.6} ${e.w * 0.86} ${roof + m * 0.74}`,
    style: air,
  })
  make(g, 'path', {
    d: `M${e.w * 0.22} ${roof + m * 0.74}C${e.w * 0.13} ${roof + m * 0.6} ${e.w * 0.15} ${roof + m * 0.42} ${e.w * 0.2} ${roof + m * 0.3}`,
    style: air,
  })
  const door = make(g, 'rect', { fill: ink })
  return (p) => {
    attr(body, 'fill', colour(p.fill))
    const open = p.open === true
    attr(door, 'x', e.w - 22)
    attr(door, 'y', open ? roof - m * 0.18 : roof + m * 0.3)
    attr(door, 'width', 7)
    attr(door, 'height', m * (open ? 0.4 : 0.68))
  }
}

const kind: ElementKind = {
  name: 'chamber',
  draw,
  backdrop: true,
}
export default kind
