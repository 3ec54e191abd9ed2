/** The columns of the trail, in the order in which the whole of it has them. */
export const TRAIL_COLUMNS = [
  'time',
  'who',
  'panel',
  'what',
  'element',
  'tag',
  'old',
  'new',
  'outcome',
  'reason',
] as const
export type TrailColumn = (typeof TRAIL_COLUMNS)[number]

/** Reads a list of columns; what is no column is left out, and with none that is known all are there. */
export function trailColumns(text: string): TrailColumn[] {
  const read = text
    .split(',')
    .map((c) => TRAIL_COLUMNS.find((known) => known === c.trim()))
    .filter((c) => c !== undefined)
  return read.length ? [...new Set(read)] : [...TRAIL_COLUMNS]
}
