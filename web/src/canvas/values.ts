import { colour } from '../theme'
import { num, str, type Renderer } from './element'
import { align, quietFill, textColour } from './shapes'
import { attr, make, show, text, textWithin } from './svg'

const mono = 'var(--mono)'

export const readout: Renderer = (g, e) => {
  const box = make(g, 'rect', { width: e.w, rx: 3 })
  const caption = make(g, 'text', { 'font-size': 14, fill: quietFill, y: 13 })
  const value = make(g, 'text', { 'font-family': mono, 'font-weight': 600, 'dominant-baseline': 'central' })
  return (p, s) => {
    const top = str(p.caption) ? 20 : 0
    const filled = p.fill !== 'none'
    attr(box, 'y', top)
    attr(box, 'height', Math.max(0, e.h - top))
    attr(box, 'fill', filled ? colour(p.fill) : 'transparent')
    attr(box, 'stroke', filled ? 'var(--c-ink)' : 'none')
    textWithin(caption, str(p.caption), e.w, 14)
    align(caption, p.align, e.w)
    text(value, s.level === 'bad' ? '—' : str(p.text, '—'))
    attr(value, 'y', top + (e.h - top) / 2)
    attr(value, 'font-size', num(p.size, 18))
    attr(value, 'fill', textColour(p.colour))
    attr(value, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
    align(value, p.align, e.w, filled ? 6 : 0)
  }
}

export const entry: Renderer = (g, e) => {
  const caption = make(g, 'text', { 'font-size': 15, fill: quietFill, y: 12 })
  const box = make(g, 'rect', { y: 20, width: e.w, height: Math.max(0, e.h - 20), rx: 4, 'stroke-width': 1.5, stroke: 'var(--c-ink)' })
  const value = make(g, 'text', { x: 14, y: 20 + (e.h - 20) / 2, 'font-family': mono, 'font-size': 20, 'font-weight': 600, 'dominant-baseline': 'central' })
  // Three lines: this takes an entry.
  const mark = make(g, 'path', { d: `M${e.w - 26} ${20 + (e.h - 20) / 2 - 6}h14m-14 6h10m-10 6h14`, stroke: 'var(--c-quiet)', 'stroke-width': 1.5, fill: 'none' })
  return (p, s) => {
    const on = p.enabled !== false
    textWithin(caption, str(p.caption), e.w, 15)
    text(value, s.level === 'bad' ? '—' : str(p.text, '—'))
    attr(value, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
    attr(value, 'fill', on ? 'var(--c-ink)' : 'var(--c-quiet)')
    attr(box, 'fill', on ? 'var(--c-sheet)' : 'transparent')
    attr(box, 'stroke', on ? 'var(--c-ink)' : 'var(--c-quiet)')
    show(mark, on && e.w > 90)
  }
}

export const lamp: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const r = Math.min(10, e.h / 2 - 2)
  const ring = make(g, 'circle', { cx: r + 2, cy: e.h / 2, r, stroke: 'var(--c-ink)', 'stroke-width': 1.75 })
  const label = make(g, 'text', { x: 2 * r + 12, y: e.h / 2, 'font-size': 15, 'dominant-baseline': 'central', fill: 'var(--c-ink)' })
  const state = make(g, 'text', { x: e.w - 2, y: e.h / 2, 'font-size': 14, 'text-anchor': 'end', 'dominant-baseline': 'central', fill: quietFill })
  return (p, s) => {
    const on = p.on === true
    attr(ring, 'fill', s.level === 'bad' ? 'none' : colour(on ? p.onColour : p.offColour))
    textWithin(label, str(p.caption), e.w - 2 * r - 46, 15)
    // The state in words too: never by colour alone.
    text(state, s.level === 'bad' ? '—' : str(p.text))
    attr(label, 'font-weight', on ? 600 : 400)
    attr(state, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
  }
}

export const button: Renderer = (g, e) => {
  const box = make(g, 'rect', { width: e.w, height: e.h, rx: 4, 'stroke-width': 1.75 })
  const label = make(g, 'text', { x: e.w / 2, y: e.h / 2, 'font-size': 16, 'font-weight': 650, 'text-anchor': 'middle', 'dominant-baseline': 'central' })
  // A held button carries a bracket at each side.
  const brackets = make(g, 'path', { d: `M14 8H8V${e.h - 8}H14M${e.w - 14} 8H${e.w - 8}V${e.h - 8}H${e.w - 14}`, fill: 'none', 'stroke-width': 1.75 })
  const arrow = make(g, 'path', { d: `M${e.w - 22} ${e.h / 2 - 6}l6 6-6 6`, fill: 'none', 'stroke-width': 1.75 })
  return (p, s) => {
    const on = p.enabled !== false
    const pressed = s.held || (p.action === 'toggle' && p.on === true)
    const ink = !on ? 'var(--c-quiet)' : pressed ? 'var(--c-on-spruce)' : 'var(--c-ink)'
    attr(box, 'fill', !on ? 'transparent' : pressed ? 'var(--c-spruce)' : 'var(--c-sheet)')
    attr(box, 'stroke', on ? 'var(--c-ink)' : 'var(--c-quiet)')
    attr(box, 'stroke-dasharray', on ? 'none' : '5 4')
    textWithin(label, str(p.caption), e.w - 20, 16)
    attr(label, 'fill', ink)
    show(brackets, p.action === 'hold')
    show(arrow, p.action === 'open' && e.w > 120)
    attr(brackets, 'stroke', ink)
    attr(arrow, 'stroke', ink)
  }
}

/** How far back the bracket beside a bar reaches, in milliseconds. */
const REACH = 5 * 60_000

export const bar: Renderer = (g, e) => {
  const top = 48
  const height = Math.max(40, e.h - top - 8)
  const width = 26
  const left = Math.max(30, e.w / 2 - 26)
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const caption = make(g, 'text', { x: left + width / 2, y: 12, 'font-size': 15, 'font-weight': 650, 'text-anchor': 'middle', fill: 'var(--c-ink)' })
  const unit = make(g, 'text', { x: left + width / 2, y: 32, 'font-size': 13, 'text-anchor': 'middle', fill: quietFill })
  make(g, 'rect', { x: left, y: top, width, height, fill: 'var(--c-track)' })
  const band = make(g, 'rect', { x: left, width, fill: 'var(--c-band)', stroke: 'var(--c-quiet)', 'stroke-width': 1 })
  const high = make(g, 'text', { x: left - 5, y: top + 8, 'font-size': 13, 'text-anchor': 'end', 'font-family': mono, fill: quietFill })
  const low = make(g, 'text', { x: left - 5, y: top + height, 'font-size': 13, 'text-anchor': 'end', 'font-family': mono, fill: quietFill })
  const range = make(g, 'path', { fill: 'none', stroke: 'var(--c-quiet)', 'stroke-width': 1.5 })
  const set = make(g, 'path', { d: `M${left - 12} -6l11 6-11 6z`, fill: 'var(--c-sheet)', stroke: 'var(--c-ink)', 'stroke-width': 1.5 })
  const mark = make(g, 'g')
  const stroke = make(mark, 'line', { x1: left, x2: left + width, 'stroke-width': 4, stroke: 'var(--c-ink)' })
  const point = make(mark, 'path', { d: `M${left + width} 0l10-6v12z`, fill: 'var(--c-ink)' })
  const value = make(g, 'text', { x: left + width + 13, 'font-size': 16, 'font-weight': 650, 'font-family': mono, 'dominant-baseline': 'central', fill: 'var(--c-ink)' })
  const past: { at: number; v: number }[] = []
  return (p, s) => {
    const a = num(p.low)
    const b = num(p.high, 100)
    const y = (v: number) => top + height - (Math.max(0, Math.min(1, (v - a) / (b - a || 1)))) * height
    textWithin(caption, str(p.caption), e.w + 16, 16)
    text(unit, e.tag?.unit ?? '')
    text(high, String(b))
    text(low, String(a))
    const from = num(p.bandLow)
    const to = num(p.bandHigh)
    show(band, to > from)
    attr(band, 'y', y(to))
    attr(band, 'height', Math.max(0, y(from) - y(to)))
    const known = typeof p.value === 'number' && s.level !== 'bad'
    show(mark, known)
    show(set, typeof p.setValue === 'number')
    attr(set, 'transform', `translate(0 ${y(num(p.setValue))})`)
    if (!known) {
      show(range, false)
      text(value, '—')
      attr(value, 'y', top + height / 2)
      return
    }
    const v = num(p.value)
    const out = to > from && (v > to || v < from)
    const tone = out ? 'var(--c-high)' : 'var(--c-ink)'
    attr(mark, 'transform', `translate(0 ${y(v)})`)
    attr(stroke, 'stroke', tone)
    attr(point, 'fill', tone)
    attr(value, 'fill', tone)
    attr(value, 'y', y(v))
    text(value, str(p.text).replace(/\u00a0.*$/, ''))
    attr(value, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
    const now = performance.now()
    const last = past[past.length - 1]
    if (!last || now - last.at > 1000) past.push({ at: now, v })
    while (past[0] && now - past[0].at > REACH) past.shift()
    const all = past.map((x) => x.v).concat(v)
    const x = left + width + 2
    const from2 = y(Math.max(...all))
    const to2 = y(Math.min(...all))
    show(range, to2 - from2 > 2)
    attr(range, 'd', `M${x} ${Math.round(from2)}h5V${Math.round(to2)}h-5`)
  }
}
