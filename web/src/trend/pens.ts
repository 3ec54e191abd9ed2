import uPlot from 'uplot'
import type { Schemas } from '../api/client'

/** The course of a tag; of one that is an earlier course of another, or differs from it, `of` is that one. */
export type Line = Schemas['TrendLine'] & { of?: string; differs?: true }
export type Pen = Schemas['Pen']
export type ViewPen = Schemas['ViewPen']
export type ViewColumn = Schemas['ViewColumn']

/** Colours of pens by their place; with the dashes no two of the first twelve look alike, in grey either. */
const colours = ['ink', 'spruce', 'heat', 'low'] as const
const dashes = [[], [7, 3], [2, 3]]
/** How a difference is drawn, whatever the pen. */
const DIFFERS = [1, 4]
/** How the pen at a place is drawn. */
export function style(place: number): { colour: string; dash: number[] } {
  return {
    colour: `var(--c-${colours[place % colours.length]})`,
    dash: dashes[Math.floor(place / colours.length) % dashes.length]!,
  }
}

/** A column of numbers in seconds since 1970, and the values that stand there. */
export type Table = [number[], (number | null)[], (number | null)[], (number | null)[]]

/** What is drawn of a pen: its times, and the least, the most and the line at each. */
export function table(pen: Pen): Table {
  const half = pen.step / 2
  const at = pen.at.map((t) => (t + half) / 1000)
  const line = pen.step ? pen.mean : pen.last
  return [at, pen.step ? pen.low : line, pen.step ? pen.high : line, line]
}

/**
 * What each line is called beside the others: its path without the folder that
 * all of them lie in.
 */
export function names(lines: Line[]): Map<string, string> {
  const paths = lines.map((l) => l.path.split('.'))
  let same = 0
  while (lines.length > 1 && paths.every((p) => p.length > same + 1 && p[same] === paths[0]![same])) same++
  return new Map(lines.map((l, i) => [l.tag, paths[i]!.slice(same).join('.')]))
}

/** What a line was at the end of what is shown; nothing where it is not known. */
export function latest(l: Line): string {
  if (l.row) {
    const last = l.row.stretches.at(-1)
    return last && !last.bad && !last.edges ? last.text : ''
  }
  // A course of steps ends with a gap after its last one.
  const v = l.pen?.last.slice(-2).findLast((x) => x !== null)
  return typeof v === 'number' ? figure(l, v) : ''
}

/** A number with the decimals that its line shows. */
export function figure(l: Line, v: number): string {
  return v.toFixed(l.decimals >= 0 ? l.decimals : Math.abs(v) < 10 ? 2 : 1).replace('-', '−')
}

/** Units in the order in which pens bring them; each has an axis of its own. */
export function unitsOf(lines: Line[]): string[] {
  return [...new Set(lines.filter((l) => l.pen).map((l) => l.unit))]
}

/** Ends of the axes that people set, by tag. */
export type Ends = Map<string, { low?: number; high?: number }>

/**
 * The least and the most that lines of a unit show, with some room about them;
 * an end that was set for one of them stands.
 */
export function extent(lines: Line[], unit: string, ends?: Ends): [number, number] {
  let low = Infinity
  let high = -Infinity
  const set = lines.flatMap((l) => (l.pen && l.unit === unit ? (ends?.get(l.tag) ?? []) : []))
  for (const l of lines) {
    if (!l.pen || l.unit !== unit) continue
    const [, least, most] = table(l.pen)
    for (const v of least) if (v !== null && v < low) low = v
    for (const v of most) if (v !== null && v > high) high = v
  }
  const none = low > high
  if (none) [low, high] = [0, 1]
  const room = none ? 0 : (high - low || Math.abs(high) || 1) * 0.06
  const least = set.find((e) => e.low !== undefined)?.low ?? low - room
  const most = set.find((e) => e.high !== undefined)?.high ?? high + room
  return least < most ? [least, most] : [least, least + 1]
}

export const LEFT = 116
export const AXIS = 52
/** Where the drawing lies between the axes, in pixels from the left and the right. */
export function insets(units: number): { left: number; right: number } {
  return { left: LEFT, right: units > 1 ? (units - 1) * AXIS : 16 }
}

/** What a plot is made of. */
interface Shape {
  lines: () => Line[]
  range: () => { from: number; to: number }
  ends: () => Ends
  size: { width: number; height: number }
  /** A colour or a font of the style sheet as the drawing takes it. */
  paint: (css: string) => string
  time: (at: number, span: number) => string
  /** The pen whose limits are drawn. */
  chosen?: string
}

/** What the drawing library draws of lines. */
export function plotOptions({ lines, range, ends, size, paint, time, chosen }: Shape): uPlot.Options {
  const units = unitsOf(lines())
  const series: uPlot.Series[] = [{}]
  const bands: uPlot.Band[] = []
  lines().forEach((l, place) => {
    if (!l.pen) return
    // An earlier course is drawn as the line it belongs to, thin and faint.
    const own = l.of === undefined ? place : lines().findIndex((x) => x.tag === l.of)
    const { colour, dash } = style(own)
    const scale = 'u' + units.indexOf(l.unit)
    const paths = l.pen.step ? uPlot.paths.linear!() : uPlot.paths.stepped!({ align: 1 })
    const edge: uPlot.Series = { scale, stroke: 'transparent', width: 0, points: { show: false }, paths }
    const width = l.tag === chosen ? 2.6 : l.of && !l.differs ? 1 : 1.6
    const full = l.of && !l.differs ? `color-mix(in srgb, ${colour} 55%, var(--c-sheet))` : colour
    series.push(edge, edge, {
      scale,
      stroke: paint(full),
      dash: l.differs ? DIFFERS : dash,
      width,
      points: { show: false },
      paths,
    })
    const at = series.length
    if (l.pen.step && !l.of)
      bands.push({ series: [at - 2, at - 3], fill: paint(`color-mix(in srgb, ${colour} 16%, transparent)`) })
  })
  const grid = { stroke: paint('var(--c-line)'), width: 1 }
  const font = '12px ' + paint('var(--mono)')
  const axis = { stroke: paint('var(--c-quiet)'), grid, ticks: { show: false }, font }
  const limit = { stroke: paint('var(--c-high)'), font }
  return {
    ...size,
    legend: { show: false },
    cursor: { show: false },
    padding: [10, units.length > 1 ? 0 : 16, 0, units.length ? 0 : LEFT],
    series,
    bands,
    hooks: { draw: [(u) => drawLimits(u, lines(), units, chosen, limit)] },
    scales: {
      x: { time: true, range: () => [range().from / 1000, range().to / 1000] },
      ...Object.fromEntries(
        units.map((u, i) => ['u' + i, { range: () => extent(lines(), u, ends()) as uPlot.Range.MinMax }]),
      ),
    },
    axes: [
      {
        ...axis,
        space: 120,
        size: 26,
        values: (_: uPlot, at: number[]) => at.map((s) => time(s * 1000, range().to - range().from)),
      },
      ...units.map((u, i) => ({
        ...axis,
        scale: 'u' + i,
        side: (i ? 1 : 3) as uPlot.Axis.Side,
        size: i ? AXIS : LEFT,
        grid: i ? { show: false } : grid,
        values: (_: uPlot, list: number[]) =>
          list.map((v, n) => (n === list.length - 1 ? `${v} ${u}` : String(v))),
      })),
    ],
  }
}

/** Draws the alarm limits of the chosen pen, as far as they lie within what is shown. */
function drawLimits(
  u: uPlot,
  lines: Line[],
  units: string[],
  chosen: string | undefined,
  look: { stroke: string; font: string },
) {
  const line = lines.find((l) => l.tag === chosen && l.pen)
  if (!line) return
  const { ctx, bbox } = u
  ctx.save()
  ctx.strokeStyle = ctx.fillStyle = look.stroke
  ctx.font = look.font
  ctx.setLineDash([2, 4])
  for (const l of line.limits) {
    const y = u.valToPos(l.value, 'u' + units.indexOf(line.unit), true)
    if (y < bbox.top || y > bbox.top + bbox.height) continue
    ctx.beginPath()
    ctx.moveTo(bbox.left, y)
    ctx.lineTo(bbox.left + bbox.width, y)
    ctx.stroke()
    ctx.fillText(l.name, bbox.left + 6, y - 4)
  }
  ctx.restore()
}
