import { type ElementKind, num, type Renderer } from '../element'
import { make } from '../svg'
import { ink } from '../marks'

const draw: Renderer = (g, e) => {
  const sleepers = make(g, 'g')
  make(g, 'rect', { y: 1, width: e.w, height: 4, fill: ink })
  let drawn = 0
  return (p) => {
    const n = Math.max(2, Math.min(120, Math.round(num(p.sleepers, 24))))
    if (n === drawn) return
    drawn = n
    sleepers.replaceChildren()
    for (let i = 0; i < n; i++)
      make(sleepers, 'rect', {
        x: (e.w - 10) * (i / (n - 1)),
        y: 5,
        width: 10,
        height: Math.max(4, e.h - 8),
        fill: 'var(--c-wood-edge)',
      })
  }
}

const kind: ElementKind = {
  name: 'track',
  draw,
  backdrop: true,
}
export default kind
