import type { App } from 'vue'
import { createI18n } from 'vue-i18n'
import { word } from './word'

export type Language = 'en' | 'de'

type Texts = { [key: string]: string | Texts }
export const i18n = createI18n({
  legacy: false,
  locale: '',
  fallbackLocale: ['en', 'de'],
  messages: {} as Record<Language, Texts>,
})

/** Has every template of an application know $t and $word. */
export const texts = {
  install(app: App) {
    app.use(i18n)
    app.config.globalProperties.$word = word
  },
}

// A language is loaded when it is spoken.
const files = { en: () => import('./en'), de: () => import('./de') }
let asked: Language | undefined

/** Has everything speak a language, as soon as its texts are there. */
export async function speak(language: Language): Promise<void> {
  asked = language
  if (!i18n.global.availableLocales.includes(language)) {
    const { default: all } = await files[language]()
    i18n.global.setLocaleMessage(language, all)
  }
  if (asked !== language) return
  i18n.global.locale.value = language
  document.documentElement.lang = language
}
