const UNITS: [name: string, ms: number][] = [
  ['d', 86_400_000],
  ['h', 3_600_000],
  ['min', 60_000],
  ['s', 1000],
  ['ms', 1],
]

/** A length of time as it is typed: in the largest unit of which it is a whole number. */
export function asTime(ms: number | undefined): string | undefined {
  if (!ms) return undefined
  const [name, of] = UNITS.find(([, of]) => ms % of === 0) ?? UNITS.at(-1)!
  return `${ms / of} ${name}`
}

/** The milliseconds of what was typed, as 500 ms, 1 min or 1,5 h; without a unit they are seconds. */
export function inMs(text: string): number | undefined {
  const m = /^\s*(\d+(?:[.,]\d+)?)\s*(ms|s|min|h|d)?\s*$/.exec(text)
  if (!m) return undefined
  const of = UNITS.find(([name]) => name === (m[2] ?? 's'))![1]
  return Math.round(Number(m[1]!.replace(',', '.')) * of)
}
