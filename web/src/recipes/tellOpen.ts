import { computed, effectScope, onScopeDispose, shallowRef, watch } from 'vue'
import { api, ask } from '../api/client'
import { live } from '../live/live'
import { openedIn, stepped } from './opened'
import type { Book, Program } from './useBook'
import { openBook, useOpenBook } from './useOpenBook'

/**
 * Tells the server what is open of some books at this page, for the tags that screens
 * show of it; the function it returns ends that.
 */
export function tellOpen(project: string, program: Program, ids: string[], language: string): () => void {
  const scope = effectScope(true)
  const books = shallowRef<Book[]>([])
  const params = { path: { project }, query: { program, language } }
  void ask(api.GET('/api/projects/{project}/books', { params })).then(
    (list) => (books.value = list),
    () => {}, // what is open stays untold, and its tags stay without values
  )
  scope.run(() => {
    for (const id of ids) {
      const { open } = useOpenBook(project, program, id, () => books.value.find((b) => b.id === id))
      const told = computed(() => {
        const column = open.first.value
        const edited = column && open.edits.get(column.key)
        return openedIn(open.fields.value, column, open.sheets.value[0], edited)
      })
      const say = () => live.say({ op: 'recipe', project, program, book: id, recipe: told.value })
      watch(() => JSON.stringify(told.value), say, { immediate: true })
      // A connection that is made anew knows nothing of it.
      onScopeDispose(live.onOpen(say))
    }
  })
  return () => scope.stop()
}

/** Why a field of the recipe that is open cannot be edited. */
export type Refusal =
  '' | 'recipe.tag.choose' | 'recipe.tag.mayNot' | 'recipe.tag.computed' | 'recipe.tag.noNumber'

/** Enters a field of the recipe that is open at this page, as an edit of it. */
export function editOpen(
  project: string,
  program: Program,
  at: { book: string; field: string },
  change: { text: string } | { by: number },
): Refusal {
  const it = openBook(project, program, at.book)
  const column = it?.open.first.value
  const field = it?.book?.fields.find((f) => f.id === at.field)
  if (!it?.book || !field || !column || column.target !== undefined) return 'recipe.tag.choose'
  if (!it.book.mayWrite) return 'recipe.tag.mayNot'
  if (field.formula) return 'recipe.tag.computed'
  const text = 'text' in change ? change.text : stepped(it.open.valuesOf(column)[field.id], change.by)
  if (text === undefined) return 'recipe.tag.noNumber'
  it.open.put(column.key, field.id, [[text]], [field])
  return ''
}
