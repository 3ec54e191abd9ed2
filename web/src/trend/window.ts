import type { Range } from './range'

const two = (n: number) => String(n).padStart(2, '0')

/** A moment as a field of date and time has it, in the zone of whoever looks. */
export function toLocal(at: number): string {
  const d = new Date(at)
  const day = [String(d.getFullYear()).padStart(4, '0'), two(d.getMonth() + 1), two(d.getDate())].join('-')
  return `${day}T${[d.getHours(), d.getMinutes(), d.getSeconds()].map(two).join(':')}`
}

/** The moment that such a field has; undefined where it has none. */
export function fromLocal(text: string): number | undefined {
  const at = new Date(text).getTime()
  return text && Number.isFinite(at) ? at : undefined
}

/** Seconds since 1970 are smaller than this for a long time yet, milliseconds since 1973 larger. */
const MILLISECONDS = 1e11

/** The moment that a tag's value tells: seconds or milliseconds since 1970, or a time as ISO 8601 writes it. */
export function momentOf(text: unknown): number | undefined {
  if (typeof text !== 'string' && typeof text !== 'number') return undefined
  const plain = String(text).trim().split('\u00a0')[0]!
  if (/^-?\d+(\.\d+)?$/.test(plain)) {
    const n = Number(plain)
    if (n <= 0) return undefined
    return Math.round(n < MILLISECONDS ? n * 1000 : n)
  }
  return /^\d{4}-\d\d-\d\d/.test(plain) ? fromLocal(plain.replace(' ', 'T')) : undefined
}

/**
 * The window that two tags tell, of so many milliseconds where only one of them is
 * given; undefined where that cannot be told.
 */
export function windowOf(
  given: { from: boolean; to: boolean },
  values: { from?: unknown; to?: unknown },
  length: number,
): Range | undefined {
  const from = given.from ? momentOf(values.from) : undefined
  const to = given.to ? momentOf(values.to) : undefined
  if ((given.from && from === undefined) || (given.to && to === undefined)) return undefined
  const range = { from: from ?? to! - length, to: to ?? from! + length }
  return range.from < range.to ? range : undefined
}
