/** The address at which a screen is played from a moment; the first screen where none is named. */
export function replayed(project: string, at: number, screen = ''): string {
  return `/replay/${project}${screen ? '/' + screen : ''}?at=${Math.round(at)}`
}
