import { colour } from '../../theme'
import { type ElementKind, num, type Props, type Renderer, share, type State, str } from '../element'
import { Recent } from '../recent'
import { attr, make, show, text, textWithin } from '../svg'
import { mono, quietFill } from '../words'

/** The last minutes, as they were recorded and as they came in since, with the value at its end. */
const draw: Renderer = (g, e, around) => {
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
  const recent = new Recent(around, e.tag?.id, () => shown && update(...shown, false))
  let shown: [Props, State] | undefined
  function update(p: Props, s: State, fresh = true) {
    shown = [p, s]
    textWithin(caption, str(p.caption), e.w * 0.55, 13)
    const known = typeof p.value === 'number' && s.level !== 'bad'
    text(value, known ? str(p.text) : '—')
    attr(value, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
    show(point, known)
    const now = around.now().getTime()
    const reach = Math.max(0.5, num(p.minutes, 5)) * 60_000
    const past = fresh ? recent.put(known ? num(p.value) : null, reach) : recent.within(now - reach)
    const all = past.flatMap((m) => m.v ?? [])
    if (!all.length) return
    const low = typeof p.low === 'number' ? p.low : Math.min(...all)
    const high = typeof p.high === 'number' ? p.high : Math.max(...all)
    const top = 20
    const y = (v: number) =>
      high > low ? top + (e.h - top - 3) * (1 - share(v, low, high)) : (top + e.h) / 2
    const x = (t: number) => Math.max(0, e.w - 4 - ((now - t) / reach) * (e.w - 4))
    // Where nothing was known there is no line.
    const path = past.map((m, i) =>
      m.v === null
        ? ''
        : `${i && past[i - 1]!.v !== null ? 'L' : 'M'}${x(m.at).toFixed(1)} ${y(m.v).toFixed(1)}`,
    )
    if (known) path.push(`L${e.w - 4} ${y(num(p.value)).toFixed(1)}`)
    attr(curve, 'd', path.join(''))
    attr(curve, 'stroke', colour(p.colour))
    if (!known) return
    attr(point, 'cx', e.w - 4)
    attr(point, 'cy', y(num(p.value)))
    attr(point, 'fill', colour(p.colour))
  }
  return (p, s) => update(p, s)
}

const kind: ElementKind = {
  name: 'sparkline',
  draw,
}
export default kind
