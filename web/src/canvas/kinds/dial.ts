import { type ElementKind, num, type Renderer, share, str } from '../element'
import { attr, make, show, text, textWithin } from '../svg'
import { mono, quietFill } from '../words'

/** A dial of three quarters of a circle: a band for what is normal, a notch for the set point, one pointer. */
const draw: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const cx = e.w / 2
  const cy = e.h * 0.54
  const r = Math.max(20, Math.min(e.w / 2, e.h * 0.54) - 16)
  const at = (t: number, q = r) => {
    const a = ((-135 + 270 * t) * Math.PI) / 180
    return `${cx + Math.sin(a) * q} ${cy - Math.cos(a) * q}`
  }
  const arcOf = (a: number, b: number, q = r) =>
    `M${at(a, q)}A${q} ${q} 0 ${(b - a) * 270 > 180 ? 1 : 0} 1 ${at(b, q)}`
  make(g, 'path', { d: arcOf(0, 1), fill: 'none', stroke: 'var(--c-track)', 'stroke-width': 10 })
  const band = make(g, 'path', { fill: 'none', stroke: 'var(--c-band)', 'stroke-width': 10 })
  make(g, 'path', { d: arcOf(0, 1, r + 5), fill: 'none', stroke: 'var(--c-quiet)' })
  let marks = ''
  for (let i = 0; i <= 10; i++) marks += `M${at(i / 10, r + 5)}L${at(i / 10, r + (i % 5 ? 9 : 13))}`
  make(g, 'path', { d: marks, stroke: 'var(--c-quiet)', fill: 'none' })
  const set = make(g, 'path', { fill: 'var(--c-sheet)', stroke: 'var(--c-ink)', 'stroke-width': 1.5 })
  const pointer = make(g, 'path', { 'stroke-width': 4, fill: 'none' })
  const value = make(g, 'text', {
    x: cx,
    y: cy + r * 0.42,
    'text-anchor': 'middle',
    'font-family': mono,
    'font-weight': 650,
    'font-size': Math.max(13, r * 0.32),
  })
  const caption = make(g, 'text', {
    x: cx,
    y: e.h - 4,
    'text-anchor': 'middle',
    'font-size': 14,
    fill: quietFill,
  })
  const low = make(g, 'text', {
    'text-anchor': 'middle',
    'font-size': 12,
    'font-family': mono,
    fill: quietFill,
    x: cx - r * 0.78,
    y: cy + r + 2,
  })
  const high = make(g, 'text', {
    'text-anchor': 'middle',
    'font-size': 12,
    'font-family': mono,
    fill: quietFill,
    x: cx + r * 0.78,
    y: cy + r + 2,
  })
  return (p, s) => {
    const a = num(p.low)
    const b = num(p.high, 100)
    const from = num(p.bandLow)
    const to = num(p.bandHigh)
    text(low, String(a))
    text(high, String(b))
    textWithin(caption, str(p.caption), e.w, 14)
    show(band, to > from)
    if (to > from) attr(band, 'd', arcOf(share(from, a, b), share(to, a, b)))
    show(set, typeof p.setValue === 'number')
    const t = share(num(p.setValue), a, b)
    attr(
      set,
      'd',
      `M${at(t, r - 5)}L${at(Math.min(1, t + 0.02), r - 14)}L${at(Math.max(0, t - 0.02), r - 14)}Z`,
    )
    const known = typeof p.value === 'number' && s.level !== 'bad'
    show(pointer, known)
    const v = num(p.value)
    const tone = to > from && (v > to || v < from) ? 'var(--c-high)' : 'var(--c-ink)'
    attr(pointer, 'd', `M${at(share(v, a, b), r * 0.55)}L${at(share(v, a, b), r + 4)}`)
    attr(pointer, 'stroke', tone)
    attr(value, 'fill', tone)
    text(value, known ? str(p.text) : '—')
    attr(value, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
  }
}

const kind: ElementKind = {
  name: 'dial',
  draw,
  speaks: true,
}
export default kind
