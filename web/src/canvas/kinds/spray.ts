import { type ElementKind, type Renderer } from '../element'
import { make, show } from '../svg'
import { ink } from '../marks'

const draw: Renderer = (g, e) => {
  make(g, 'line', { x1: 0, x2: e.w, y1: 3, y2: 3, stroke: ink, 'stroke-width': 3 })
  const n = 5
  const drops = make(g, 'g', { stroke: 'var(--c-water)', 'stroke-width': 2, 'stroke-dasharray': '3 3' })
  for (let i = 0; i < n; i++) {
    const x = (e.w * (i + 0.5)) / n
    make(g, 'rect', { x: x - 2, y: 3, width: 4, height: 6, fill: ink })
    make(drops, 'line', { x1: x, x2: x - 3, y1: 10, y2: e.h })
    make(drops, 'line', { x1: x, x2: x + 3, y1: 10, y2: e.h })
  }
  return (p) => show(drops, p.open === true)
}

const kind: ElementKind = {
  name: 'spray',
  draw,
  sample: { props: { open: true } },
}
export default kind
