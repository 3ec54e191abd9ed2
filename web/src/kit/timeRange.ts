/** Of which time a list is: the last hours, all where there are none, or from one moment to another. */
export interface Range {
  hours: number
  from: string
  to: string
}
/** The hours of a range that has its own beginning and end. */
export const CHOSEN = -1

/** The bounds of a range, in milliseconds since 1970; none where it has none. */
export function boundsOf(r: Range, now: number): { from?: number; to?: number } {
  if (r.hours === CHOSEN) return { from: Date.parse(r.from) || undefined, to: Date.parse(r.to) || undefined }
  return { from: r.hours ? now - r.hours * 3_600_000 : undefined, to: undefined }
}
