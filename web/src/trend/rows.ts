import type { Schemas } from '../api/client'

export type Stretch = Schemas['Stretch']

/** The moments at which a row changes, of those that can be told apart. */
export function edges(row: { stretches: Stretch[] }): number[] {
  return row.stretches.slice(1).map((s) => s.from)
}

/** The next edge after a moment, or the last one before it; none where the row has no more. */
export function edgeFrom(row: { stretches: Stretch[] }, at: number, forth: boolean): number | undefined {
  const list = edges(row)
  return forth ? list.find((e) => e > at) : list.findLast((e) => e < at)
}

/** The edge nearest to a moment, within a distance. */
export function near(rows: { stretches: Stretch[] }[], at: number, within: number): number {
  let best = at
  let distance = within
  for (const row of rows)
    for (const e of edges(row))
      if (Math.abs(e - at) <= distance) {
        best = e
        distance = Math.abs(e - at)
      }
  return best
}
