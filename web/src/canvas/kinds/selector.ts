import { type ElementKind, type Renderer, str } from '../element'
import { attr, make, show, textWithin } from '../svg'
import { quietFill } from '../words'

/** A selector: the chosen state with a mark that it opens, or all of them in a row. */
const draw: Renderer = (g, e) => {
  const caption = make(g, 'text', { 'font-size': 15, fill: quietFill, y: 12 })
  const states = e.tag?.states ?? []
  const row = e.props.look === 'row' && states.length > 0
  const h = Math.max(0, e.h - 20)
  const box = make(g, 'rect', { y: 20, width: e.w, height: h, rx: 4, 'stroke-width': 1.5 })
  const chosen = make(g, 'text', {
    x: 14,
    y: 20 + h / 2,
    'font-size': 18,
    'font-weight': 600,
    'dominant-baseline': 'central',
  })
  const mark = make(g, 'path', {
    d: `M${e.w - 28} ${20 + h / 2 - 4}l8 8 8-8`,
    fill: 'none',
    stroke: 'var(--c-quiet)',
    'stroke-width': 2,
  })
  const w = e.w / Math.max(1, states.length)
  const cells = row
    ? states.map((s, i) => {
        const c = make(g, 'g', { 'data-choice': String(s.value), transform: `translate(${i * w} 20)` })
        const r = make(c, 'rect', { width: w, height: h, stroke: 'var(--c-ink)', rx: 3 })
        const t = make(c, 'text', {
          x: w / 2,
          y: h / 2,
          'text-anchor': 'middle',
          'dominant-baseline': 'central',
          'font-size': 15,
        })
        textWithin(t, s.text, w - 8, 15)
        return { r, t, v: s.value }
      })
    : []
  return (p, s) => {
    const on = p.enabled !== false
    textWithin(caption, str(p.caption), e.w, 15)
    show(chosen, !row)
    show(mark, !row && on)
    textWithin(chosen, s.level === 'bad' ? '—' : str(p.text, '—'), e.w - 50, 18)
    attr(chosen, 'fill', on ? 'var(--c-ink)' : 'var(--c-quiet)')
    attr(chosen, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
    attr(box, 'fill', on ? 'var(--c-sheet)' : 'transparent')
    attr(box, 'stroke', on ? 'var(--c-ink)' : 'var(--c-quiet)')
    for (const c of cells) {
      const here = s.level !== 'bad' && p.value === c.v
      attr(c.r, 'fill', !on ? 'transparent' : here ? 'var(--c-spruce)' : 'var(--c-sheet)')
      attr(c.t, 'fill', here && on ? 'var(--c-on-spruce)' : on ? 'var(--c-ink)' : 'var(--c-quiet)')
      attr(c.t, 'font-weight', here ? 650 : 400)
    }
  }
}

const kind: ElementKind = {
  name: 'selector',
  draw,
  speaks: true,
  press(item, hand, inside) {
    const choice = inside('choice')
    if (choice !== undefined) hand.say(item, 'send', choice)
    else hand.say(item, 'choose')
  },
}
export default kind
