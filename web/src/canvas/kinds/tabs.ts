import { colour } from '../../theme'
import { type ElementKind, num, type Renderer, str } from '../element'
import { attr, make, text } from '../svg'

/** The titles of a tab set; the chosen one is open below. */
const draw: Renderer = (g, e) => {
  const body = make(g, 'rect', { y: 44, width: e.w, height: Math.max(0, e.h - 44), stroke: 'var(--c-line)' })
  const names = e.tabs ?? []
  const width = Math.min(180, e.w / Math.max(1, names.length))
  const all = names.map((_, i) => {
    const tab = make(g, 'g', {
      'data-tab': i + 1,
      transform: `translate(${i * width} 0)`,
      style: 'cursor:pointer',
    })
    const box = make(tab, 'path', {
      d: `M0 44V6a6 6 0 0 1 6 -6H${width - 10}a6 6 0 0 1 6 6V44`,
      stroke: 'var(--c-line)',
    })
    return {
      box,
      label: make(tab, 'text', {
        x: (width - 4) / 2,
        y: 23,
        'text-anchor': 'middle',
        'dominant-baseline': 'central',
        'font-size': 15,
        fill: 'var(--c-ink)',
      }),
    }
  })
  return (p) => {
    attr(body, 'fill', colour(p.fill))
    all.forEach(({ box, label }, i) => {
      const open = num(p.tab, 1) === i + 1
      attr(box, 'fill', open ? colour(p.fill) : 'var(--c-line)')
      attr(label, 'font-weight', open ? 650 : 400)
      text(label, str(p[`tab${i}`], names[i] ?? ''))
    })
  }
}

const kind: ElementKind = {
  name: 'tabs',
  draw,
  holds: true,
  press(item, hand, inside) {
    const many = item.element.tabs?.length || 1
    hand.turn(item.element.id, Number(inside('tab') ?? (num(item.shown.tab, 1) % many) + 1))
  },
}
export default kind
