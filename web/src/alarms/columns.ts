import { clock, toSecond } from '../kit/moment'
import type { WordOf } from '../i18n/word'

/** A column of a list; times may be written in a format of their own, as in "came:both". */
export interface Column {
  key: WordOf<'occurrence'>
  format: string
}

/** The formats of times, by their names. */
export const stamps: Record<string, Intl.DateTimeFormatOptions> = {
  time: clock,
  date: { day: 'numeric', month: 'short', year: 'numeric' },
  both: toSecond,
}

/** The columns of which there is a list by occurrence. */
export const OCCURRENCE: WordOf<'occurrence'>[] = [
  'tab',
  'name',
  'text',
  'value',
  'area',
  'came',
  'acked',
  'by',
  'went',
  'long',
]
/** Those of them that are times. */
export const TIMES = ['came', 'acked', 'went']

/** Reads a list of columns; columns of other lists are left out, and with none that is known the usual ones are there. */
export function occurrenceColumns(text: string): Column[] {
  const read = text.split(',').flatMap((c) => {
    const [name, format] = c.trim().split(':')
    const key = OCCURRENCE.find((o) => o === name)
    return key ? [{ key, format: format ?? 'time' }] : []
  })
  return read.some((c) => TIMES.includes(c.key))
    ? read
    : occurrenceColumns('tab,name,text,came:both,acked,by,went,long')
}

/** How long something lasted: 0.4 s, 12 s, 3:05 min, 2:15 h, 3 d 4 h. */
export function lasting(ms: number): string {
  const two = (n: number) => String(Math.floor(n)).padStart(2, '0')
  const s = ms / 1000
  if (s < 10) return s.toFixed(1) + ' s'
  if (s < 60) return Math.floor(s) + ' s'
  if (s < 3600) return `${Math.floor(s / 60)}:${two(s % 60)} min`
  if (s < 86_400) return `${Math.floor(s / 3600)}:${two((s % 3600) / 60)} h`
  return `${Math.floor(s / 86_400)} d ${Math.floor((s % 86_400) / 3600)} h`
}
