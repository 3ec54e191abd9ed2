import { colour } from '../../theme'
import { type ElementKind, num, type Renderer, share, str } from '../element'
import { attr, make, show, text, textWithin } from '../svg'
import { mono, quietFill } from '../words'

/** The last minutes as this panel saw them, with the value at its end. */
const draw: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const caption = make(g, 'text', { y: 12, 'font-size': 13, fill: quietFill })
  const value = make(g, 'text', {
    x: e.w,
    y: 12,
    'font-size': 14,
    'font-weight': 650,
    'font-family': mono,
    'text-anchor': 'end',
    fill: 'var(--c-ink)',
  })
  make(g, 'path', { d: `M0 ${e.h - 0.5}H${e.w}`, stroke: 'var(--c-quiet)', 'stroke-width': 0.75 })
  const curve = make(g, 'path', { fill: 'none', 'stroke-width': 1.75, 'stroke-linejoin': 'round' })
  const point = make(g, 'circle', { r: 3 })
  const past: { at: number; v: number }[] = []
  return (p, s) => {
    textWithin(caption, str(p.caption), e.w * 0.55, 13)
    const known = typeof p.value === 'number' && s.level !== 'bad'
    text(value, known ? str(p.text) : '—')
    attr(value, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
    show(point, known)
    if (!known) return
    const now = performance.now()
    const reach = Math.max(0.5, num(p.minutes, 5)) * 60_000
    const last = past[past.length - 1]
    if (last && now - last.at < reach / 240) last.v = num(p.value)
    else past.push({ at: now, v: num(p.value) })
    while (past[0] && now - past[0].at > reach) past.shift()
    const all = past.map((x) => x.v)
    const low = typeof p.low === 'number' ? p.low : Math.min(...all)
    const high = typeof p.high === 'number' ? p.high : Math.max(...all)
    const top = 20
    const y = (v: number) =>
      high > low ? top + (e.h - top - 3) * (1 - share(v, low, high)) : (top + e.h) / 2
    const x = (t: number) => e.w - 4 - ((now - t) / reach) * (e.w - 4)
    attr(
      curve,
      'd',
      past.map((q, i) => `${i ? 'L' : 'M'}${x(q.at).toFixed(1)} ${y(q.v).toFixed(1)}`).join('') +
        `L${e.w - 4} ${y(num(p.value)).toFixed(1)}`,
    )
    attr(curve, 'stroke', colour(p.colour))
    attr(point, 'cx', e.w - 4)
    attr(point, 'cy', y(num(p.value)))
    attr(point, 'fill', colour(p.colour))
  }
}

const kind: ElementKind = {
  name: 'sparkline',
  draw,
}
export default kind
