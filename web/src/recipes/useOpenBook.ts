import { effectScope, onScopeDispose, shallowRef, watch, type EffectScope, type ShallowRef } from 'vue'
import { useSession } from '../api/session'
import { benches } from './benches'
import { bench, useBook, type Book, type OpenBook, type Program } from './useBook'
import { useDeliveries, type Deliveries } from './useDeliveries'

interface Shared {
  book: ShallowRef<Book | undefined>
  open: OpenBook
  deliveries: Deliveries
  scope: EffectScope
  users: number
}
const shared = new Map<string, Shared>()
const keyOf = (project: string, program: Program, id: string) =>
  [project, program, id, useSession().me?.person?.id ?? ''].join(' ')

/** A book that something on the page shows or tells of; undefined where nothing does. */
export function openBook(project: string, program: Program, id: string) {
  const it = shared.get(keyOf(project, program, id))
  return it && { book: it.book.value, open: it.open }
}

/**
 * A book as everything on the page that shows it has it in common: what is open, what is edited and not
 * saved, what is on its way. It ends with the last of them; what is open and edited stays this person's.
 */
export function useOpenBook(project: string, program: Program, id: string, book: () => Book | undefined) {
  const key = keyOf(project, program, id)
  let mine = shared.get(key)
  if (!mine) {
    const kept = benches.get(key) ?? bench()
    benches.set(key, kept)
    const scope = effectScope(true)
    const of: Shared['book'] = shallowRef(book())
    mine = scope.run(() => ({
      book: of,
      open: useBook(
        () => project,
        program,
        () => of.value,
        kept,
      ),
      deliveries: useDeliveries(
        () => project,
        () => (of.value?.released ? of.value.id : ''),
        program,
      ),
      scope,
      users: 0,
    }))!
    shared.set(key, mine)
  }
  const all = mine
  all.users++
  watch(book, (b) => b && (all.book.value = b), { immediate: true })
  onScopeDispose(() => {
    if (--all.users > 0) return
    all.scope.stop()
    if (shared.get(key) === all) shared.delete(key)
  })
  return { open: all.open, deliveries: all.deliveries }
}
