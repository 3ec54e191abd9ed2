import { type ElementKind, type Item, num, type Renderer, str } from '../element'
import { attr, make, show, text, textWithin } from '../svg'
import { mono, quietFill } from '../words'
import { type SceneElement } from '../../live/live'

/** Two targets at the right end of an entry, one step up and one down. */
function spinner(g: SVGGElement, e: SceneElement) {
  const half = (e.h - 20) / 2
  const all = [-1, 1].map((by, i) => {
    const b = make(g, 'g', { 'data-step': -by, transform: `translate(${e.w - 44} ${20 + i * half})` })
    make(b, 'rect', { width: 44, height: half, fill: 'transparent', stroke: 'var(--c-ink)' })
    return make(b, 'path', {
      d: i ? `M15 ${half / 2 - 3}l7 7 7-7` : `M15 ${half / 2 + 3}l7-7 7 7`,
      fill: 'none',
      'stroke-width': 2,
    })
  })
  return (on: boolean) => all.forEach((a) => attr(a, 'stroke', on ? 'var(--c-ink)' : 'var(--c-quiet)'))
}

/** A field with its value, and two targets beside it where it steps. */
export const draw: Renderer = (g, e) => {
  const steps = e.props.spinner === true ? spinner(g, e) : undefined
  const caption = make(g, 'text', { 'font-size': 15, fill: quietFill, y: 12 })
  const box = make(g, 'rect', {
    y: 20,
    width: e.w,
    height: Math.max(0, e.h - 20),
    rx: 4,
    'stroke-width': 1.5,
    stroke: 'var(--c-ink)',
  })
  const value = make(g, 'text', {
    x: 14,
    y: 20 + (e.h - 20) / 2,
    'font-family': mono,
    'font-size': 20,
    'font-weight': 600,
    'dominant-baseline': 'central',
  })
  // Three lines: this takes an entry.
  const mark = make(g, 'path', {
    d: `M${e.w - 26} ${20 + (e.h - 20) / 2 - 6}h14m-14 6h10m-10 6h14`,
    stroke: 'var(--c-quiet)',
    'stroke-width': 1.5,
    fill: 'none',
  })
  return (p, s) => {
    const on = p.enabled !== false
    textWithin(caption, str(p.caption), e.w, 15)
    text(value, s.level === 'bad' ? '—' : str(p.text, '—'))
    attr(value, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
    attr(value, 'fill', on ? 'var(--c-ink)' : 'var(--c-quiet)')
    attr(box, 'fill', on ? 'var(--c-sheet)' : 'transparent')
    attr(box, 'stroke', on ? 'var(--c-ink)' : 'var(--c-quiet)')
    show(mark, on && e.w > 90 && !steps)
    steps?.(on)
  }
}

/** The value one step from the present one, as it is entered. */
function stepped(item: Item, by: number): string {
  const size = item.element.tag?.step || num(item.element.props.step, 1)
  const d = Math.max(item.element.tag?.decimals ?? 0, 0)
  return (num(item.shown.value) + by * size).toFixed(Math.max(d, size % 1 ? 2 : 0))
}

const kind: ElementKind = {
  name: 'entry',
  draw,
  speaks: true,
  press(item, hand, inside) {
    const by = inside('step')
    if (by) hand.say(item, 'send', stepped(item, Number(by)))
    else hand.say(item, 'enter')
  },
}
export default kind
