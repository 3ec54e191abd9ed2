import type { Schemas } from '../api/client'

type Point = Schemas['CoursePoint']

/** A recorded course as one path: a step to each point, with what lay between as an upright; nothing where it is bad. */
export function coursePath(
  points: readonly Point[],
  x: (at: number) => number,
  y: (v: number) => number,
  end: number,
): string {
  let d = ''
  let open = false
  for (const p of points) {
    const px = x(p.at).toFixed(1)
    if (!p.bad)
      d += open ? `H${px}V${y(p.high).toFixed(1)}V${y(p.low).toFixed(1)}` : `M${px} ${y(p.low).toFixed(1)}`
    open = !p.bad
  }
  return open ? `${d}H${end}` : d
}

/** The lowest and highest of a course and of what is drawn with it, with an edge about them. */
export function courseRange(
  points: readonly Point[],
  limit: number | undefined,
  edge: number,
): { low: number; high: number } {
  const all = [
    ...points.filter((p) => !p.bad).flatMap((p) => [p.low, p.high]),
    ...(limit === undefined ? [] : [limit]),
  ]
  const [low, high] = all.length ? [Math.min(...all), Math.max(...all)] : [0, 1]
  const wide = (high - low || Math.abs(high) || 1) * edge
  return { low: low - wide, high: high + wide }
}
