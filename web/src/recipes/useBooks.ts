import { shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask } from '../api/client'
import { useNotice } from '../kit/problem'
import type { Book, Program } from './useBook'

/** The books of a version, asked for anew as it changes. */
export function useBooks(project: () => string, program: Program, version?: () => unknown) {
  const notice = useNotice()
  const { locale } = useI18n({ useScope: 'global' })
  const books = shallowRef<Book[]>([])
  async function load() {
    if (!project()) return
    const query = { program, language: locale.value }
    books.value = await ask(
      api.GET('/api/projects/{project}/books', { params: { path: { project: project() }, query } }),
    ).catch((e) => (notice.refuse(e), books.value))
  }
  watch([project, locale, () => version?.()], load, { immediate: true })
  return { books, load }
}
