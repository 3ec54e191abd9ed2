import { dayAndTime, moment } from '../kit/moment'

const HOUR = 3_600_000

/** A moment on the axis of a span, as finely as the span needs. */
export function label(at: number, span: number): string {
  if (span > 60 * HOUR) return moment(at, { day: 'numeric', month: 'short' })
  if (span > 20 * HOUR) return moment(at, dayAndTime)
  return moment(at, { hour: '2-digit', minute: '2-digit', second: span < HOUR / 4 ? '2-digit' : undefined })
}
