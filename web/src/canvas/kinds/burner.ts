import { type ElementKind, type Renderer } from '../element'
import { attr, make } from '../svg'
import { ink, marks } from '../marks'

const draw: Renderer = (g, e) => {
  const y = e.h * 0.62
  make(g, 'path', {
    d: `M${e.w * 0.1} ${e.h - 2}L${e.w * 0.22} ${y}H${e.w * 0.78}L${e.w * 0.9} ${e.h - 2}Z`,
    fill: 'var(--c-sheet)',
    stroke: ink,
    'stroke-width': 2,
    'stroke-linejoin': 'round',
  })
  const flames = make(g, 'g')
  const tongue = (x: number, h: number) =>
    make(flames, 'path', {
      d: `M${x} ${y - 3}c${-h * 0.42} ${-h * 0.3} ${-h * 0.1} ${-h * 0.55} 0 ${-h}c${h * 0.1} ${h * 0.45} ${h * 0.42} ${h * 0.7} 0 ${h}z`,
      'stroke-width': 1.75,
      stroke: ink,
    })
  const all = [tongue(e.w * 0.32, e.h * 0.36), tongue(e.w * 0.5, e.h * 0.54), tongue(e.w * 0.68, e.h * 0.36)]
  const mark = marks(g, e.w)
  return (p, s) => {
    const lit = p.running === true && s.level !== 'bad'
    for (const f of all) {
      attr(f, 'fill', lit ? ink : 'none')
      attr(f, 'stroke-dasharray', lit ? 'none' : '3 3')
    }
    mark(p)
  }
}

const kind: ElementKind = {
  name: 'burner',
  draw,
}
export default kind
