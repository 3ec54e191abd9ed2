import { type ElementKind, num, type Props, type Renderer, share, type State, str } from '../element'
import { Recent } from '../recent'
import { attr, make, show, text, textWithin } from '../svg'
import { mono, quietFill } from '../words'

/** How far back the span beside a bar reaches, in milliseconds. */
const REACH = 5 * 60_000

/**
 * A column, wide within its limits and narrow outside of them. A plate lies
 * across it at the value and carries the figure. From the set point to the plate
 * it is filled, so that the deviation is a length; without one, from the foot. A
 * thin line with two ends shows the lowest and the highest of the last minutes;
 * alarm limits are short marks in their priority's colour.
 */
const draw: Renderer = (g, e, around) => {
  const top = 46
  const height = Math.max(40, e.h - top - 20)
  const foot = top + height
  const wide = 34
  const narrow = 12
  const x = Math.max(wide / 2 + 18, e.w / 2 - 24) // the middle of the column
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const caption = make(g, 'text', {
    x,
    y: 12,
    'font-size': 15,
    'font-weight': 650,
    'text-anchor': 'middle',
    fill: 'var(--c-ink)',
  })
  const unit = make(g, 'text', { x, y: 30, 'font-size': 13, 'text-anchor': 'middle', fill: quietFill })
  const high = make(g, 'text', {
    x: x - wide / 2 - 6,
    y: top + 8,
    'font-size': 13,
    'text-anchor': 'end',
    'font-family': mono,
    fill: quietFill,
  })
  const low = make(g, 'text', {
    x,
    y: foot + 15,
    'font-size': 13,
    'text-anchor': 'middle',
    'font-family': mono,
    fill: quietFill,
  })
  const column = make(g, 'path', { fill: 'var(--c-sheet)', stroke: 'var(--c-quiet)', 'stroke-width': 1.25 })
  const clip = make(g, 'clipPath', { id: `bar-${e.id}-${serial++}` })
  const inside = make(clip, 'path')
  const fill = make(g, 'rect', {
    x: x - wide / 2,
    width: wide,
    fill: 'color-mix(in srgb, var(--c-spruce) 45%, var(--c-sheet))',
    'clip-path': `url(#${clip.id})`,
  })
  const limits = make(g, 'g')
  const set = make(g, 'path', {
    d: `M${x - wide / 2 - 4} 0H${x + wide / 2 + 4}`,
    stroke: 'var(--c-spruce)',
    'stroke-width': 2.5,
    'stroke-dasharray': '3 3',
  })
  const span = make(g, 'path', { fill: 'none', stroke: quietFill, 'stroke-width': 1.5 })
  const plate = make(g, 'g')
  const across = make(plate, 'rect', { x: x - wide / 2 - 7, y: -3, width: wide + 14, height: 6, rx: 1 })
  make(plate, 'path', { d: `M${x + wide / 2 + 6} 0h4`, stroke: 'var(--c-ink)', 'stroke-width': 1.5 })
  const room = make(plate, 'rect', {
    x: x + wide / 2 + 10,
    y: -13,
    height: 26,
    rx: 3,
    fill: 'var(--c-sheet)',
    stroke: 'var(--c-ink)',
    'stroke-width': 1.5,
  })
  const value = make(plate, 'text', {
    x: x + wide / 2 + 17,
    y: 1,
    'font-size': 16,
    'font-weight': 650,
    'font-family': mono,
    'dominant-baseline': 'central',
    fill: 'var(--c-ink)',
  })
  const recent = new Recent(around, e.tag?.id, () => last && update(...last, false))
  let last: [Props, State] | undefined
  let drawn = ''
  function update(p: Props, s: State, fresh = true) {
    last = [p, s]
    const a = num(p.low)
    const b = num(p.high, 100)
    const y = (v: number) => foot - share(v, a, b) * height
    textWithin(caption, str(p.caption), e.w + 16, 16)
    text(unit, e.tag?.unit ?? '')
    text(high, String(b))
    text(low, String(a))
    const from = num(p.bandLow)
    const to = num(p.bandHigh)
    const [up, down] = to > from ? [y(to), y(from)] : [top, foot]
    const key = [up, down, a, b].join()
    if (key !== drawn) {
      drawn = key
      const [w, n] = [wide / 2, narrow / 2]
      const d = `M${x - n} ${top}H${x + n}V${up}H${x + w}V${down}H${x + n}V${foot}H${x - n}V${down}H${x - w}V${up}H${x - n}Z`
      attr(column, 'd', d)
      attr(inside, 'd', d)
      limits.replaceChildren()
      for (const m of e.tag?.marks ?? [])
        if (m.at >= a && m.at <= b)
          make(limits, 'rect', {
            x: x + n + 1,
            y: y(m.at) - 2,
            width: w - n,
            height: 4,
            fill: `var(--c-${m.priority})`,
          })
    }
    const known = typeof p.value === 'number' && s.level !== 'bad'
    const past = fresh
      ? recent.put(known ? num(p.value) : null, REACH)
      : recent.within(around.now().getTime() - REACH)
    const wanted = typeof p.setValue === 'number' ? y(num(p.setValue)) : foot
    show(set, typeof p.setValue === 'number')
    attr(set, 'transform', `translate(0 ${wanted})`)
    show(fill, known)
    show(across, known)
    const shown = known ? str(p.text).replace(/\u00a0.*$/, '') : '—'
    text(value, shown)
    attr(room, 'width', 14 + 10 * Math.max(1, shown.length))
    attr(value, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
    const v = num(p.value)
    const at = known ? y(v) : top + height / 2
    attr(plate, 'transform', `translate(0 ${at})`)
    show(span, known)
    if (!known) return
    const out = to > from && (v > to || v < from)
    attr(across, 'fill', out ? 'var(--c-high)' : 'var(--c-ink)')
    attr(room, 'stroke', out ? 'var(--c-high)' : 'var(--c-ink)')
    attr(fill, 'y', Math.min(at, wanted))
    attr(fill, 'height', Math.abs(at - wanted))
    const all = past.flatMap((m) => (m.v === null ? [] : [m.v, m.low ?? m.v, m.high ?? m.v])).concat(v)
    const [most, least] = [y(Math.max(...all)), y(Math.min(...all))]
    show(span, least - most > 2)
    attr(span, 'd', `M${x - wide / 2 - 14} ${Math.round(most)}h6m-3 0V${Math.round(least)}m-3 0h6`)
  }
  return (p, s) => update(p, s)
}

/** Tells the clip paths of one page apart. */
let serial = 0

const kind: ElementKind = {
  name: 'bar',
  draw,
  speaks: true,
  sample: { w: 60, h: 130, box: '-6 30 90 108' },
}
export default kind
