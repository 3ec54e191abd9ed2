import { colour } from '../theme'
import { num, share, str, type Renderer } from './element'
import { align, quietFill, textBox, textColour } from './shapes'
import { attr, make, show, text, textWithin } from './svg'

const mono = 'var(--mono)'

/** A value with its label above it; words are cut to the width, figures never. */
const labelled =
  (words: boolean): Renderer =>
  (g, e) => {
    const box = make(g, 'rect', { width: e.w, rx: 3 })
    const caption = make(g, 'text', { 'font-size': 14, fill: quietFill, y: 13 })
    const value = make(g, 'text', {
      'font-weight': 600,
      'dominant-baseline': 'central',
      ...(words ? {} : { 'font-family': mono }),
    })
    return (p, s) => {
      const top = str(p.caption) ? 20 : 0
      const filled = p.fill !== 'none'
      const size = num(p.size, words ? 16 : 18)
      const shown = s.level === 'bad' ? '—' : str(p.text, '—')
      attr(box, 'y', top)
      attr(box, 'height', Math.max(0, e.h - top))
      attr(box, 'fill', filled ? colour(p.fill) : 'transparent')
      attr(box, 'stroke', filled ? 'var(--c-ink)' : 'none')
      textWithin(caption, str(p.caption), e.w, 14)
      align(caption, p.align, e.w)
      if (words) textWithin(value, shown, e.w - (filled ? 12 : 0), size)
      else text(value, shown)
      attr(value, 'y', top + (e.h - top) / 2)
      attr(value, 'font-size', size)
      attr(value, 'fill', textColour(p.colour))
      attr(value, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
      align(value, p.align, e.w, filled ? 6 : 0)
    }
  }
export const readout = labelled(false)
export const stateText = labelled(true)

export const lamp: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const r = Math.min(10, e.h / 2 - 2)
  const ring = make(g, 'circle', { cx: r + 2, cy: e.h / 2, r, stroke: 'var(--c-ink)', 'stroke-width': 1.75 })
  const label = make(g, 'text', {
    x: 2 * r + 12,
    y: e.h / 2,
    'font-size': 15,
    'dominant-baseline': 'central',
    fill: 'var(--c-ink)',
  })
  const state = make(g, 'text', {
    x: e.w - 2,
    y: e.h / 2,
    'font-size': 14,
    'text-anchor': 'end',
    'dominant-baseline': 'central',
    fill: quietFill,
  })
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

/** How far back the span beside a bar reaches, in milliseconds. */
const REACH = 5 * 60_000

/**
 * A column, wide within its limits and narrow outside of them. A plate lies
 * across it at the value and carries the figure. From the set point to the plate
 * it is filled, so that the deviation is a length; without one, from the foot. A
 * thin line with two ends shows the lowest and the highest of the last minutes;
 * alarm limits are short marks in their priority's colour.
 */
export const bar: Renderer = (g, e) => {
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
  const past: { at: number; v: number }[] = []
  let drawn = ''
  return (p, s) => {
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
    const now = performance.now()
    const last = past[past.length - 1]
    if (!last || now - last.at > 1000) past.push({ at: now, v })
    while (past[0] && now - past[0].at > REACH) past.shift()
    const all = past.map((q) => q.v).concat(v)
    const [most, least] = [y(Math.max(...all)), y(Math.min(...all))]
    show(span, least - most > 2)
    attr(span, 'd', `M${x - wide / 2 - 14} ${Math.round(most)}h6m-3 0V${Math.round(least)}m-3 0h6`)
  }
}

/** Tells the clip paths of one page apart. */
let serial = 0

/** A dial of three quarters of a circle: a band for what is normal, a notch for the set point, one pointer. */
export const dial: Renderer = (g, e) => {
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

/** The last minutes as this panel saw them, with the value at its end. */
export const sparkline: Renderer = (g, e) => {
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

/** A table of tags: a name and a value in each line. */
export const table: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'var(--c-sheet)', stroke: 'var(--c-line)' })
  const head = make(g, 'text', { x: 10, y: 19, 'font-size': 14, 'font-weight': 650, fill: 'var(--c-ink)' })
  const top = str(e.props.caption) ? 28 : 0
  const rows = (e.rows ?? []).map((row, i, all) => {
    const h = Math.min(32, (e.h - top) / all.length)
    const y = top + i * h
    const title = make(g, 'text', {
      x: 10,
      y: y + h / 2,
      'font-size': 14,
      'dominant-baseline': 'central',
      fill: quietFill,
    })
    textWithin(title, row.title, e.w * 0.62, 14)
    const rule = make(g, 'line', { x1: 0, x2: e.w, y1: y, y2: y, stroke: 'var(--c-line)' })
    return {
      rule,
      value: make(g, 'text', {
        x: e.w - 10,
        y: y + h / 2,
        'font-size': 14,
        'font-weight': 600,
        'font-family': mono,
        'text-anchor': 'end',
        'dominant-baseline': 'central',
        fill: 'var(--c-ink)',
      }),
    }
  })
  return (p) => {
    text(head, str(p.caption))
    rows.forEach(({ value, rule }, i) => {
      show(rule, p.lines !== false)
      text(value, str(p[`row${i}`], '—'))
    })
  }
}

/** What the elements that know no tag show: the panel's clock, and who is signed in. */
export const surroundings = { now: (): Date => new Date(), person: (): string => '' }
const ticking = new Set<() => void>()
setInterval(() => ticking.forEach((f) => f()), 1000)

export const clock: Renderer = (g, e) => {
  const draw = textBox(g, e)
  let last: Parameters<ReturnType<Renderer>>[0] = e.props
  const tick = () => {
    if (!g.isConnected) return void ticking.delete(tick)
    const now = surroundings.now()
    const time = now.toLocaleTimeString([], {
      hour: '2-digit',
      minute: '2-digit',
      second: '2-digit',
      hour12: false,
    })
    const date = now.toLocaleDateString([], { weekday: 'short', day: 'numeric', month: 'short' })
    draw(last, last.show === 'date' ? date : last.show === 'both' ? `${date} ${time}` : time)
  }
  return (p) => {
    last = p
    ticking.add(tick)
    queueMicrotask(tick)
  }
}

export const person: Renderer = (g, e) => {
  const draw = textBox(g, e)
  return (p) => draw(p, surroundings.person() || '—')
}
