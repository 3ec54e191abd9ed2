import { type ElementKind, num, type Renderer } from '../element'
import { attr, make, show } from '../svg'
import { ink, marks } from '../marks'

const draw: Renderer = (g, e) => {
  const body = make(g, 'g')
  const deck = e.h * 0.62
  const load = make(body, 'g')
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 5; c++)
      make(load, 'rect', {
        x: e.w * (0.14 + c * 0.145),
        y: deck - (r + 1) * e.h * 0.17,
        width: e.w * 0.132,
        height: e.h * 0.13,
        fill: 'var(--c-wood)',
        stroke: 'var(--c-wood-edge)',
      })
  make(body, 'rect', { y: deck, width: e.w, height: e.h * 0.16, fill: ink })
  make(body, 'path', {
    d: `M4 ${deck}V${e.h * 0.2}M${e.w - 4} ${deck}V${e.h * 0.2}`,
    stroke: ink,
    'stroke-width': 3.5,
  })
  for (const x of [0.2, 0.8]) {
    make(body, 'circle', {
      cx: e.w * x,
      cy: e.h * 0.86,
      r: e.h * 0.13,
      fill: 'var(--c-sheet)',
      stroke: ink,
      'stroke-width': 2.5,
    })
    make(body, 'circle', { cx: e.w * x, cy: e.h * 0.86, r: 2.5, fill: ink })
  }
  const mark = marks(body, e.w)
  return (p, s) => {
    const at = Math.max(-0.05, Math.min(1, num(p.position))) * num(p.travel)
    attr(body, 'transform', `translate(${at} 0)`)
    show(load, p.loaded === true && s.level !== 'bad')
    mark(p)
  }
}

const kind: ElementKind = {
  name: 'car',
  draw,
}
export default kind
