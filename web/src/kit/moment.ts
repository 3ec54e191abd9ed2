import { i18n } from '../i18n'

// Making a formatter costs a hundred times what using it does: lists of times
// keep theirs, one for each way of writing and each language.
const formatters = new Map<string, Intl.DateTimeFormat>()

/** A time as people of the chosen language write it; English as in the United Kingdom. */
export function moment(at: number | string | Date, how: Intl.DateTimeFormatOptions): string {
  const language = i18n.global.locale.value === 'de' ? 'de' : 'en-GB'
  const key = language + JSON.stringify(how)
  let f = formatters.get(key)
  if (!f) formatters.set(key, (f = new Intl.DateTimeFormat(language, how)))
  const time = new Date(at)
  return Number.isNaN(time.getTime()) ? '—' : f.format(time)
}

export const clock: Intl.DateTimeFormatOptions = { hour: '2-digit', minute: '2-digit', second: '2-digit' }
export const dayAndTime: Intl.DateTimeFormatOptions = {
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
}
export const toSecond: Intl.DateTimeFormatOptions = { ...dayAndTime, second: '2-digit' }
