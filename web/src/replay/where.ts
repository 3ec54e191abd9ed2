/** What led to something is played from this long before it, in milliseconds. */
export const BEFORE = 120_000

/** The address at which what led to a moment is played; on the first screen where none is named. */
export function whatLedTo(project: string, at: number, screen = ''): string {
  return `/replay/${project}${screen ? '/' + screen : ''}?at=${Math.round(at - BEFORE)}`
}
