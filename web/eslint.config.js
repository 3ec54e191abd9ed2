import vueI18n from '@intlify/eslint-plugin-vue-i18n'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import { globalIgnores } from 'eslint/config'
import { readdirSync, readFileSync } from 'node:fs'
import ts from 'typescript-eslint'

/**
 * Keys that the rule does not see: those chosen by a condition, those of a group
 * of which a value chooses, word('role', role), and those put together with a name
 * that has its words elsewhere or none, t('lang.' + code): all of the group count as
 * used.
 */
function usedOtherwise() {
  const found = new Set()
  const key = '[a-zA-Z]+(?:\\.[a-zA-Z]+)+'
  const prefix = '[a-zA-Z]+(?:\\.[a-zA-Z]+)*\\.'
  const group = "word\\(\\s*'([a-zA-Z]+(?:\\.[a-zA-Z]+)*)'"
  const literal = new RegExp(`'(${key})'|'(${prefix})'\\s*\\+|\`(${prefix})\\$\\{|${group}`, 'g')
  const sources = readdirSync('src', { recursive: true }).filter((f) => /\.(ts|vue)$/.test(f))
  for (const file of sources)
    for (const [, whole, quoted, filled, named] of readFileSync('src/' + file, 'utf8').matchAll(literal))
      found.add(
        whole
          ? `/^${whole.replaceAll('.', '\\.')}$/`
          : `/^${(quoted ?? filled ?? named + '.').replaceAll('.', '\\.')}/`,
      )
  return [...found]
}

export default ts.config(
  globalIgnores([
    'dist/**',
    'src/api/**/*.gen.ts',
    'src/api/openapi.json',
    'src/i18n/catalogue/**',
    '*.json',
  ]),
  ts.configs.recommended,
  vue.configs['flat/recommended'],
  vueI18n.configs.recommended,
  prettier,
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: ts.parser } },
  },
  {
    settings: {
      'vue-i18n': {
        localeDir: {
          pattern: './src/i18n/{en,de}/*.json',
          localeKey: 'path',
          localePattern: /^.*\/i18n\/(?<locale>[a-z]+)\/.*\.json$/,
        },
        messageSyntaxVersion: '^11.0.0',
      },
    },
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      'vue/no-mutating-props': ['error', { shallowOnly: true }], // an editor is handed on whole, with its refs
      'vue/no-deprecated-filter': 'off', // it takes the unions of types for filters
      '@intlify/vue-i18n/no-missing-keys': 'error',
      '@intlify/vue-i18n/no-missing-keys-in-other-locales': 'error',
      '@intlify/vue-i18n/no-unused-keys': [
        'error',
        { src: './src', extensions: ['.ts', '.vue'], ignores: usedOtherwise() },
      ],
      '@intlify/vue-i18n/no-raw-text': 'off', // units, signs and separators stand as they are
    },
  },
)
