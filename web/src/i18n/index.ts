import { createI18n } from 'vue-i18n'
import { de } from './de'
import { en } from './en'

export type Language = 'en' | 'de'
export type Messages = typeof en

export const i18n = createI18n({ legacy: false, locale: 'en', fallbackLocale: 'en', messages: { en, de } })
