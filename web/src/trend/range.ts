import { computed, ref, shallowRef } from 'vue'

/** A stretch of time, in milliseconds since 1970. */
export interface Range {
  from: number
  to: number
}

const HOUR = 3_600_000
/** The spans that are one click away, in milliseconds. */
export const spans = [0.25 * HOUR, HOUR, 8 * HOUR, 24 * HOUR, 7 * 24 * HOUR, 30 * 24 * HOUR]
const SHORTEST = 1000
const LONGEST = 400 * 24 * HOUR

/** A range of a span that contains what it may: no longer than a year, and not after now. */
export function bounded(range: Range, now: number): Range {
  const span = Math.min(LONGEST, Math.max(SHORTEST, range.to - range.from))
  const to = Math.min(range.to, now + span / 20)
  return { from: Math.round(to - span), to: Math.round(to) }
}

/** A range that is made narrower or wider about a moment, which stays where it is. */
export function zoomed(range: Range, at: number, factor: number): Range {
  return { from: at - (at - range.from) * factor, to: at + (range.to - at) * factor }
}

/** The range that is looked at: it follows now or stands, and what was seen before can be seen again. */
export function useRange(span = 8 * HOUR) {
  const now = ref(Date.now())
  const following = ref(true)
  const range = shallowRef<Range>({ from: now.value - span, to: now.value })
  const before = shallowRef<Range[]>([])
  const length = computed(() => range.value.to - range.value.from)

  function look(next: Range, keep = true) {
    if (keep) before.value = [...before.value.slice(-49), range.value]
    following.value = false
    range.value = bounded(next, Date.now())
  }
  /** Moves by a time. */
  function move(by: number, keep = true) {
    look({ from: range.value.from + by, to: range.value.to + by }, keep)
  }
  /** Shows the newest of a span, and goes on with it. */
  function follow(span = length.value) {
    before.value = [...before.value.slice(-49), range.value]
    following.value = true
    tick(span)
  }
  function tick(span = length.value) {
    now.value = Date.now()
    if (following.value) range.value = { from: now.value - span, to: now.value }
  }
  function back() {
    const last = before.value.at(-1)
    if (!last) return
    before.value = before.value.slice(0, -1)
    following.value = false
    range.value = last
  }
  return { range, length, following, before, look, move, follow, tick, back }
}
