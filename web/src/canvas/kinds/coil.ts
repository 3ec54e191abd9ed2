import { ink } from '../marks'
import { type ElementKind, num, type Renderer } from '../element'
import { attr, make } from '../svg'

const draw: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const waves = [0.2, 0.5, 0.8].map((f) => {
    const y = e.h * f
    const w = e.w / 4
    return make(g, 'path', {
      d: `M0 ${y}q${w / 2} ${-e.h * 0.16} ${w} 0t${w} 0t${w} 0t${w} 0`,
      fill: 'none',
      'stroke-width': 2.5,
      'stroke-linecap': 'round',
    })
  })
  return (p) => {
    // One wave for each third of the output that is on.
    const lit = Math.ceil(num(p.output) / 34)
    waves.forEach((w, i) => {
      attr(w, 'stroke', 2 - i < lit ? ink : 'var(--c-metal)')
      attr(w, 'stroke-width', 2 - i < lit ? 3 : 2)
    })
  }
}

const kind: ElementKind = {
  name: 'coil',
  draw,
}
export default kind
