import { i18n } from '../i18n'

/** A time as people of the chosen language write it; English as in the United Kingdom. */
export function moment(at: number | string | Date, how: Intl.DateTimeFormatOptions): string {
  const language = i18n.global.locale.value === 'de' ? 'de' : 'en-GB'
  return new Date(at).toLocaleString(language, how)
}

export const clock: Intl.DateTimeFormatOptions = { hour: '2-digit', minute: '2-digit', second: '2-digit' }
export const dayAndTime: Intl.DateTimeFormatOptions = { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' }
