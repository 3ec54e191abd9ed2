import { AXIS, extent, latest, style, table, unitsOf, type Ends, type Line } from './pens'
import type { Range } from './range'
import { moments, numbers } from './ticks'
import { light, type Colours } from '../theme'

/** What a picture of courses is made of. */
export interface Sheet {
  title: string
  /** The time that is shown, in words. */
  when: string
  lines: Line[]
  range: Range
  ends: Ends
  inverted: ReadonlySet<string>
  names: ReadonlyMap<string, string>
  width: number
  /** A moment on the axis of a span. */
  time: (at: number, span: number) => string
}

const HEAD = 58
const PLOT = 420
const ROW = 26
const LEFT = 150
const GAP = 14

const escaped = (text: string) =>
  text.replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c]!)
/** A colour of the palette as a file has it: a report is on paper, whatever the screen is. */
const paper = (css: string) => light[css.slice('var(--c-'.length, -1) as keyof Colours]
const round = (v: number) => Math.round(v * 10) / 10

/** An element with attributes; those that are undefined are left out. */
function el(name: string, attributes: Record<string, string | number | undefined>, inner = ''): string {
  const list = Object.entries(attributes).flatMap(([k, v]) =>
    v === undefined ? [] : ` ${k}="${typeof v === 'number' ? round(v) : escaped(v)}"`,
  )
  return `<${name}${list.join('')}${inner ? `>${inner}</${name}>` : '/>'}`
}

/** The courses and rows that are shown, as SVG for a report: on white, with a legend. */
export function picture(s: Sheet): string {
  const pens = s.lines.filter((l) => l.pen)
  const rows = s.lines.filter((l) => l.row)
  const units = unitsOf(s.lines)
  const right = s.width - 24 - Math.max(0, units.length - 1) * AXIS
  const x = (at: number) => LEFT + ((at - s.range.from) / (s.range.to - s.range.from)) * (right - LEFT)
  const top = HEAD
  const bottom = top + (pens.length ? PLOT : 0)
  const rowsTop = bottom + (pens.length ? GAP : 0)
  const end = rowsTop + rows.length * ROW
  const legend = end + 34
  const height = legend + pens.length * 20 + 16

  const text = (left: number, y: number, words: string, more: Record<string, string | number> = {}) =>
    el('text', { x: left, y, fill: paper('var(--c-ink)'), 'font-size': 13, ...more }, escaped(words))
  const quiet = { fill: paper('var(--c-quiet)'), 'font-size': 12 }
  const out = [
    el('rect', { width: s.width, height, fill: paper('var(--c-sheet)') }),
    text(16, 26, s.title, { 'font-size': 18, 'font-weight': 700 }),
    text(16, 46, s.when, quiet),
  ]

  const grid = { stroke: paper('var(--c-line)'), 'stroke-width': 1 }
  for (const at of moments(s.range.from, s.range.to, Math.max(2, Math.floor((right - LEFT) / 130)))) {
    out.push(el('line', { x1: x(at), x2: x(at), y1: top, y2: end, ...grid }))
    out.push(
      text(x(at), end + 18, s.time(at, s.range.to - s.range.from), { ...quiet, 'text-anchor': 'middle' }),
    )
  }
  units.forEach((unit, i) => {
    const y = heights(s, unit, top)
    const [low, high] = extent(s.lines, unit, s.ends)
    const marks = numbers(low, high, 6)
    marks.forEach((v, n) => {
      if (!i) out.push(el('line', { x1: LEFT, x2: right, y1: y(v), y2: y(v), ...grid }))
      const at = i ? right + 8 + (i - 1) * AXIS : LEFT - 8
      const words = n === marks.length - 1 ? `${v} ${unit}` : String(v)
      out.push(text(at, y(v) + 4, words, { ...quiet, 'text-anchor': i ? 'start' : 'end' }))
    })
  })

  out.push(el('clipPath', { id: 'plot' }, el('rect', { x: LEFT, y: top, width: right - LEFT, height: PLOT })))
  const courses = s.lines.flatMap((l) => (l.pen ? course(s, l, x, heights(s, l.unit, top)) : []))
  if (courses.length) out.push(el('g', { 'clip-path': 'url(#plot)' }, courses.join('')))

  rows.forEach((l, i) => out.push(...row(s, l, rowsTop + i * ROW, x, text)))

  pens.forEach((l, i) => {
    const y = legend + i * 20
    const { colour, dash } = look(s, l)
    out.push(
      el('line', {
        x1: 16,
        x2: 48,
        y1: y,
        y2: y,
        stroke: colour,
        'stroke-width': 2,
        'stroke-dasharray': dash,
      }),
    )
    const last = latest(l)
    out.push(text(58, y + 4, `${l.path}${last ? `  ${last}` : ''} ${l.unit}`.trim()))
  })
  const size = { width: s.width, height, viewBox: `0 0 ${s.width} ${height}` }
  const font = 'Atkinson Hyperlegible, system-ui, sans-serif'
  return el('svg', { xmlns: 'http://www.w3.org/2000/svg', ...size, 'font-family': font }, out.join(''))
}

/** Where a value of a unit stands. */
function heights(s: Sheet, unit: string, top: number): (v: number) => number {
  const [low, high] = extent(s.lines, unit, s.ends)
  return (v) => top + PLOT - ((v - low) / (high - low)) * PLOT
}

/** Colour and dashes of a pen; an earlier course has those of its line. */
function look(s: Sheet, l: Line): { colour: string; dash?: string } {
  const { colour, dash } = style(s.lines.findIndex((x) => x.tag === (l.of ?? l.tag)))
  return { colour: paper(colour), dash: dash.length ? dash.join(' ') : undefined }
}

/** The line of a pen, in pieces where nothing is known, and what it moved between under it. */
function course(s: Sheet, l: Line, x: (at: number) => number, y: (v: number) => number): string[] {
  const [at, low, high, line] = table(l.pen!)
  const { colour, dash } = look(s, l)
  const path: string[] = []
  const bands: string[] = []
  let piece: number[] = []
  const close = () => {
    if (l.pen!.step && !l.of && piece.length > 1) {
      const there = piece.map((i) => `${round(x(at[i]! * 1000))} ${round(y(high[i]!))}`)
      const back = piece.toReversed().map((i) => `${round(x(at[i]! * 1000))} ${round(y(low[i]!))}`)
      bands.push(`M${[...there, ...back].join('L')}Z`)
    }
    piece = []
  }
  at.forEach((t, i) => {
    const v = line[i]
    if (v === null || v === undefined || low[i] === null || high[i] === null) return close()
    const [px, py] = [round(x(t * 1000)), round(y(v))]
    // A sample holds until the next one; a step's mean stands in its middle.
    path.push(!piece.length ? `M${px} ${py}` : l.pen!.step ? `L${px} ${py}` : `H${px}V${py}`)
    piece.push(i)
  })
  close()
  const thin = { 'stroke-width': l.of ? 1 : 1.6, 'stroke-opacity': l.of ? 0.55 : undefined }
  return [
    ...(bands.length ? [el('path', { d: bands.join(''), fill: colour, 'fill-opacity': '0.16' })] : []),
    el('path', { d: path.join(''), fill: 'none', stroke: colour, 'stroke-dasharray': dash, ...thin }),
  ]
}

/** A signal row: on is filled, states are labelled, what is not known is left out. */
function row(
  s: Sheet,
  l: Line,
  top: number,
  x: (at: number) => number,
  text: (left: number, y: number, words: string, more?: Record<string, string | number>) => string,
): string[] {
  const name = s.names.get(l.tag) ?? l.path
  const turned = s.inverted.has(l.tag)
  const out = [
    text(LEFT - 8, top + 17, name, {
      'text-anchor': 'end',
      ...(turned ? { 'text-decoration': 'overline' } : {}),
    }),
  ]
  const ink = paper('var(--c-ink)')
  for (const part of l.row!.stretches) {
    const from = Math.max(part.from, s.range.from)
    const to = Math.min(part.to, s.range.to)
    if (part.bad || to <= from) continue
    const w = Math.max(1, x(to) - x(from))
    const box = { x: x(from), width: w, fill: paper('var(--c-spruce)') }
    if (part.edges) out.push(el('rect', { ...box, y: top + 4, height: 18, 'fill-opacity': '0.5' }))
    else if (l.row!.bool) {
      const on = (part.value === 1) !== turned
      out.push(el('rect', { ...box, y: on ? top + 4 : top + 20, height: on ? 18 : 2 }))
    } else {
      out.push(
        el('rect', {
          ...box,
          y: top + 4,
          height: 18,
          'fill-opacity': '0.16',
          stroke: ink,
          'stroke-width': 0.5,
        }),
      )
      if (w > 7 * part.text.length) out.push(text(x(from) + 4, top + 17, part.text, { 'font-size': 11 }))
    }
  }
  return out
}
