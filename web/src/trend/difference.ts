import type { Line, Pen } from './pens'

/** The difference of a course and the one that is laid under it. */
export interface Difference extends Line {
  of: string
  differs: true
}

/** What a pen was at each of some moments, in order: the last value at or before it; null where nothing is known. */
function held(pen: Pen, moments: number[]): (number | null)[] {
  const values = pen.step ? pen.mean : pen.last
  let i = -1
  return moments.map((at) => {
    while (i + 1 < pen.at.length && pen.at[i + 1]! <= at) i++
    return i < 0 ? null : (values[i] ?? null)
  })
}

/** A pen less another, at each moment of either; null where one of them is not known. */
export function less(a: Pen, b: Pen): Pen {
  const at = [...new Set([...a.at, ...b.at])].sort((x, y) => x - y)
  const [va, vb] = [held(a, at), held(b, at)]
  const last = va.map((v, i) => (v === null || vb[i] === null ? null : v - vb[i]!))
  // The description of the interface has no null in a list, though there are some.
  const known = last as number[]
  return { step: 0, at, low: [], high: [], mean: known, last: known }
}

/** Each course less the one that is laid under it, on an axis of its own. */
export function differences(lines: Line[], under: Line[]): Difference[] {
  return under.flatMap((u) => {
    const line = lines.find((l) => l.tag === u.of)
    if (!line?.pen || !u.pen) return []
    const pen = less(line.pen, u.pen)
    return [
      {
        ...line,
        tag: `${line.tag} Δ`,
        path: `Δ ${line.path}`,
        unit: `Δ ${line.unit}`.trim(),
        of: line.tag,
        differs: true as const,
        limits: [],
        pen,
      },
    ]
  })
}
