import { createI18n } from 'vue-i18n'

export type Language = 'en' | 'de'

type Texts = { [key: string]: string | Texts }
/** The texts of one language, a file a stop. */
const whole = (files: Record<string, Texts>): Texts => Object.assign({}, ...Object.values(files))
// Elements and their properties have their English names from the server's
// catalogue; here are those that read otherwise, and the other languages'.
const en = whole(
  import.meta.glob<Texts>(['./en/*.json', './catalogue/en.json'], { eager: true, import: 'default' }),
)
const de = whole(
  import.meta.glob<Texts>(['./de/*.json', './catalogue/de.json'], { eager: true, import: 'default' }),
)

export const i18n = createI18n({ legacy: false, locale: 'en', fallbackLocale: 'en', messages: { en, de } })
