/** Round numbers between two ends, about as many as asked. */
export function numbers(low: number, high: number, about: number): number[] {
  const rough = (high - low) / Math.max(1, about)
  if (!(rough > 0)) return []
  const power = 10 ** Math.floor(Math.log10(rough))
  const step = power * ([1, 2, 5, 10].find((s) => s * power >= rough) ?? 10)
  const out: number[] = []
  for (let n = Math.ceil(low / step - 1e-9); n * step <= high + step * 1e-9; n++)
    out.push(Number((n * step).toPrecision(12)))
  return out
}

const SECOND = 1000
const MINUTE = 60 * SECOND
const HOUR = 60 * MINUTE
const DAY = 24 * HOUR
const STEPS = [1, 2, 5, 10, 30]
  .map((n) => n * SECOND)
  .concat([1, 2, 5, 10, 30].map((n) => n * MINUTE))
  .concat([1, 2, 3, 6, 12].map((n) => n * HOUR))
  .concat([1, 2, 7, 14, 28].map((n) => n * DAY))

/** Moments on the local clock's marks between two ends, at most as many as asked. */
export function moments(from: number, to: number, most: number): number[] {
  const step = STEPS.find((s) => (to - from) / s <= most) ?? STEPS.at(-1)!
  const midnight = new Date(from)
  midnight.setHours(0, 0, 0, 0)
  const out: number[] = []
  for (let day = midnight.getTime(); day <= to;) {
    const next = new Date(day)
    next.setDate(next.getDate() + Math.max(1, Math.round(step / DAY)))
    // Within a day by the clock; from day to day by the calendar, whatever its hours.
    if (step >= DAY) out.push(day)
    else for (let at = day; at < next.getTime(); at += step) out.push(at)
    day = next.getTime()
  }
  return out.filter((at) => at >= from && at <= to)
}
