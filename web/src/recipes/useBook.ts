import { refDebounced, useIntervalFn } from '@vueuse/core'
import { computed, reactive, ref, shallowRef, watch, type Ref } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import { useAsked } from '../desk/asked'
import { i18n } from '../i18n'
import { useNotice } from '../kit/problem'
import { laid, type Column, type Values } from './columns'

export type Book = Schemas['BookShown']
export type Recipe = Schemas['RecipeShown']
export type Sheet = Schemas['Sheet']
export type Program = 'draft' | 'release' | 'try'

/** How often what a target has now is looked at. */
const LOOK = 1000

/** What of a book is open and edited; it outlives whoever shows it. */
export interface Bench {
  book: string
  columns: Ref<Column[]>
  edits: Map<string, Values>
  /** What the edits of a column were before, to take them back. */
  steps: Map<string, Values[]>
  /** The versions that edits began from. */
  bases: Map<string, number>
}
export const bench = (): Bench => ({
  book: '',
  columns: ref([]),
  edits: reactive(new Map()),
  steps: reactive(new Map()),
  bases: new Map(),
})

/** A book that is worked in: its recipes, the columns that are open, what is edited and not saved. */
export function useBook(
  project: () => string,
  program: Program,
  book: () => Book | undefined,
  kept: Bench = bench(),
) {
  const notice = useNotice()
  const askFirst = useAsked()
  const path = () => ({ project: project(), book: book()?.id ?? '' })
  const fields = computed(() => book()?.fields ?? [])

  // The list.
  const text = ref('')
  const typed = refDebounced(text, 200)
  const state = ref<'' | 'draft' | 'approved'>('')
  const gone = ref(false)
  const order = ref<'' | 'changed'>('')
  const page = shallowRef<Schemas['RecipePage']>({ count: 0, list: [] })
  async function list(more = false) {
    if (!book()) return
    const skip = more ? page.value.list.length : 0
    const query = {
      program,
      text: typed.value,
      state: state.value,
      gone: gone.value,
      order: order.value,
      skip,
    }
    try {
      const got = await ask(
        api.GET('/api/projects/{project}/books/{book}/recipes', { params: { path: path(), query } }),
      )
      page.value = more ? { count: got.count, list: [...page.value.list, ...got.list] } : got
    } catch (e) {
      notice.refuse(e)
    }
  }
  watch([typed, state, gone, order], () => list())

  // The columns.
  const { columns, edits, steps, bases } = kept
  const sheets = shallowRef<Sheet[]>([])
  /** The server does not answer: what is shown is what it said last. */
  const silent = ref(false)
  let asked = 0
  async function look() {
    const mine = ++asked
    const open = columns.value
    if (!book() || !open.length) {
      sheets.value = []
      return
    }
    const body = {
      columns: open.map((c) =>
        c.target !== undefined
          ? { target: c.target }
          : { recipe: c.recipe || undefined, version: c.version || undefined, values: edits.get(c.key) },
      ),
    }
    const params = { path: path(), query: { program } }
    try {
      const signal = AbortSignal.timeout(4 * LOOK)
      const got = await ask(api.POST('/api/projects/{project}/books/{book}/sheets', { params, body, signal }))
      silent.value = false
      if (mine === asked) sheets.value = got
    } catch (e) {
      silent.value = true
      if (!sheets.value.length) notice.refuse(e)
    }
  }
  watch(
    () => book()?.id ?? '',
    (id) => {
      if (id && id !== kept.book) {
        kept.book = id
        columns.value = []
        edits.clear()
        steps.clear()
      }
      void list()
      void look()
    },
    { immediate: true },
  )
  watch([columns, edits, fields], look, { deep: true })
  useIntervalFn(() => {
    if (!document.hidden && columns.value.some((c) => c.target !== undefined)) void look()
  }, LOOK)

  const first = computed(() => columns.value[0])
  const changed = computed(() => columns.value.filter((c) => edits.has(c.key)))

  /** Opens a recipe in the first column; what was open beside stays, unless it is edited. */
  function open(recipe: string, version = 0) {
    const key = recipe + '/' + version
    const others = columns.value.filter((c, i) => i > 0 && c.key !== key && !c.key.startsWith('new'))
    const edited = first.value && edits.has(first.value.key) ? [first.value] : []
    columns.value = [{ key, recipe, version }, ...edited.filter((c) => c.key !== key), ...others]
  }
  /** Lays a recipe, a version or a target beside the first column, or takes it away. */
  function beside(c: Omit<Column, 'key'>) {
    const key = c.target !== undefined ? 'at ' + c.target : c.recipe + '/' + c.version
    if (columns.value.some((x) => x.key === key)) drop(key)
    else columns.value = [...columns.value, { ...c, key }]
  }
  function drop(key: string) {
    edits.delete(key)
    steps.delete(key)
    columns.value = columns.value.filter((c) => c.key !== key)
  }
  /** Begins a new recipe, with values of another or the defaults. */
  function begin(name: string, values?: Values) {
    const key = 'new ' + name
    const fresh: Values = {}
    for (const f of fields.value) if (!f.formula && f.default) fresh[f.id] = f.default
    edits.set(key, { ...(values ?? fresh) })
    columns.value = [{ key, recipe: '', version: 0, name }, ...columns.value.filter((c) => c.key !== key)]
  }
  const sheetOf = (c: Column) => sheets.value[columns.value.indexOf(c)]
  /** The values of a column as they are now: edited, or as they are kept. */
  function valuesOf(c: Column): Values {
    const edited = edits.get(c.key)
    if (edited) return edited
    const cells = sheetOf(c)?.cells ?? []
    return Object.fromEntries(
      fields.value.flatMap((f, i) => (f.formula || !cells[i] ? [] : [[f.id, cells[i].text]])),
    )
  }
  /** Begins a new recipe of what a target has now. */
  async function read(target: string, name: string) {
    const body = { columns: [{ target }] }
    const params = { path: path(), query: { program } }
    try {
      const [got] = await ask(api.POST('/api/projects/{project}/books/{book}/sheets', { params, body }))
      const has = fields.value.flatMap((f, i) => {
        const cell = got?.cells[i]
        return f.formula || !cell || cell.bad ? [] : [[f.id, cell.text]]
      })
      begin(name, Object.fromEntries(has) as Values)
    } catch (e) {
      notice.refuse(e)
    }
  }
  /** Puts a block of texts into the cells from a field on, down those that show and to the right through further columns. */
  function put(key: string, field: string, block: string[][], shown = fields.value) {
    const before = new Map<string, Values>()
    const open = columns.value.filter((c) => c.target === undefined)
    for (const [c, values] of laid(open, shown, key, field, block)) {
      const old = valuesOf(c)
      before.set(c.key, old)
      if (!edits.has(c.key)) bases.set(c.key, sheetOf(c)?.latest ?? 0)
      edits.set(c.key, { ...old, ...values })
    }
    for (const [k, old] of before) steps.set(k, [...(steps.get(k) ?? []), old])
  }
  /** Takes the last edit of a column back. */
  function undo(key: string) {
    const past = steps.get(key) ?? []
    if (!past.length) return
    edits.set(key, past[past.length - 1]!)
    steps.set(key, past.slice(0, -1))
  }
  /** Forgets what was edited and not saved. */
  function forget() {
    for (const c of changed.value) {
      edits.delete(c.key)
      steps.delete(c.key)
    }
    columns.value = columns.value.filter((c) => c.recipe || c.target !== undefined)
  }

  async function done(answer: Promise<unknown>): Promise<boolean> {
    const ok = await answer.then(
      () => true,
      (e) => (notice.refuse(e), false),
    )
    await list()
    await look()
    return ok
  }
  /** Saves all that is edited, in one go, as new versions and new recipes. */
  async function save(why: string) {
    const open = changed.value
    const recipes = open.map((c) => ({
      recipe: c.recipe || undefined,
      base: bases.get(c.key) || undefined,
      name: c.name,
      values: { ...edits.get(c.key)! },
    }))
    let ids: string[] = []
    const params = { path: path(), query: { program } }
    const ok = await done(
      ask(api.POST('/api/projects/{project}/books/{book}/recipes', { params, body: { recipes, why } })).then(
        (got) => {
          ids = got
          edits.clear()
          steps.clear()
          columns.value = columns.value.map((c) => {
            const n = open.indexOf(c)
            return n < 0 || c.recipe ? c : { key: ids[n] + '/0', recipe: ids[n]!, version: 0 }
          })
        },
      ),
    )
    if (!ok) open.forEach(overtaken)
    return ok ? ids : []
  }
  /** Lays beside an edit what somebody else has written meanwhile; another save goes over it. */
  function overtaken(c: Column) {
    const latest = sheetOf(c)?.latest ?? 0
    if (!c.recipe || latest === bases.get(c.key)) return
    bases.set(c.key, latest)
    const key = c.recipe + '/' + latest
    if (!columns.value.some((x) => x.key === key))
      columns.value = [...columns.value, { key, recipe: c.recipe, version: latest }]
  }
  const remove = (recipes: string[], back: boolean, why = '') => {
    columns.value = columns.value.filter((c) => back || !recipes.includes(c.recipe))
    const body = { recipes, back, why }
    return done(
      ask(
        api.POST('/api/projects/{project}/books/{book}/deletions', {
          params: { path: path(), query: { program } },
          body,
        }),
      ),
    )
  }
  const rename = (id: string, name: string) =>
    done(
      ask(
        api.POST('/api/projects/{project}/recipes/{id}/name', {
          params: { path: { project: project(), id }, query: { program } },
          body: { name },
        }),
      ),
    )
  const judge = (id: string, version: number, approve: boolean, reason = '') => {
    const { t } = i18n.global
    const name = sheets.value.find((s) => s.recipe === id)?.name ?? ''
    const doing = {
      title: t(approve ? 'recipe.approve' : 'recipe.withdraw'),
      says: `${name} · ${t('recipe.versionNumber', { n: version })}`,
    }
    return done(
      askFirst.send(doing, (answer) =>
        ask(
          api.POST('/api/projects/{project}/recipes/{id}/judgements', {
            params: { path: { project: project(), id }, query: { program } },
            body: { version, approve, ...answer, reason: answer.reason ?? reason },
          }),
        ),
      ),
    )
  }
  return {
    ...{
      fields,
      text,
      state,
      gone,
      order,
      page,
      list,
      columns,
      edits,
      steps,
      sheets,
      silent,
      first,
      changed,
    },
    ...{ open, beside, drop, begin, read, valuesOf, put, undo, forget, save, remove, rename, judge },
  }
}
export type OpenBook = ReturnType<typeof useBook>
