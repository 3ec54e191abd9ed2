import { type ElementKind, type Renderer, str } from '../element'
import { attr, make, show, textWithin } from '../svg'
import { quietFill } from '../words'

/** A switch: a slot whose peg lies at the side that is on, with the state in words. */
const draw: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const w = Math.min(64, e.w * 0.5)
  const h = Math.min(32, e.h - 8)
  const y = (e.h - h) / 2
  const slot = make(g, 'rect', { y, width: w, height: h, rx: 4, 'stroke-width': 1.75 })
  const peg = make(g, 'rect', {
    y: y + 4,
    width: w / 2 - 5,
    height: h - 8,
    rx: 2,
    'stroke-width': 1.5,
    stroke: 'var(--c-ink)',
  })
  const label = make(g, 'text', {
    x: w + 12,
    y: e.h / 2 - 8,
    'font-size': 15,
    'dominant-baseline': 'central',
    fill: 'var(--c-ink)',
  })
  const state = make(g, 'text', {
    x: w + 12,
    y: e.h / 2 + 10,
    'font-size': 14,
    'dominant-baseline': 'central',
    fill: quietFill,
  })
  return (p, s) => {
    const enabled = p.enabled !== false
    const on = p.on === true
    const known = s.level !== 'bad' && typeof p.on === 'boolean'
    attr(slot, 'fill', !enabled ? 'transparent' : on ? 'var(--c-spruce)' : 'var(--c-sheet)')
    attr(slot, 'stroke', enabled ? 'var(--c-ink)' : 'var(--c-quiet)')
    attr(slot, 'stroke-dasharray', enabled ? 'none' : '5 4')
    show(peg, known)
    attr(peg, 'x', on ? w / 2 + 1 : 4)
    attr(peg, 'fill', on ? 'var(--c-on-spruce)' : 'var(--c-paper)')
    const caption = str(p.caption)
    textWithin(label, caption, e.w - w - 12, 15)
    attr(state, 'y', caption ? e.h / 2 + 10 : e.h / 2)
    textWithin(state, known ? str(p.text) : '—', e.w - w - 12, 14)
  }
}

const kind: ElementKind = {
  name: 'switch',
  draw,
  role: 'switch',
  press: (item, hand) => hand.say(item, 'send', String(item.shown.on !== true)),
}
export default kind
