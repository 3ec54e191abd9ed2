import { useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowReactive, watch } from 'vue'
import { api, ask, type TagRow } from '../api/client'
import { useProject } from '../rail/project'

const PAGE = 100

export type Only = '' | 'bad' | 'uncertain' | 'held' | 'unused' | 'findings' | 'writable'
export type Sort = '' | 'path' | 'type' | 'address' | 'uses' | 'source' | 'check' | 'description'
export type Check = '' | 'untested' | 'passed' | 'failed' | 'outdated'
export type Source = '' | 'device' | 'internal' | 'computed' | 'system'

/** The filtered list of tags, of which only the pages in sight are fetched. */
export function useTagList() {
  const project = useProject()
  const filter = ref({
    text: '',
    folder: '',
    device: '',
    type: '',
    source: '' as Source,
    check: '' as Check,
    only: '' as Only,
    sort: '' as Sort,
    down: false,
  })
  const total = ref(0)
  const pages = shallowReactive(new Map<number, TagRow[]>())
  const loading = new Map<number, AbortController>()
  let reloading: AbortController | undefined
  let generation = 0

  const fetchFrom = (offset: number, signal: AbortSignal) =>
    ask(
      api.GET('/api/projects/{project}/tags', {
        params: { path: project.path, query: { ...filter.value, offset, limit: PAGE } },
        signal,
      }),
    ).catch(() => undefined)
  async function fetchPage(page: number) {
    if (loading.has(page)) return
    const stop = new AbortController()
    loading.set(page, stop)
    const mine = generation
    const got = await fetchFrom(page * PAGE, stop.signal)
    if (loading.get(page) === stop) loading.delete(page)
    if (mine !== generation) return
    if (!got) return
    total.value = got.total
    pages.set(page, got.rows)
  }

  /** Makes sure that the rows from a to b are on their way, and no others. */
  function need(a: number, b: number) {
    const [first, last] = [Math.floor(a / PAGE), Math.floor(b / PAGE)]
    for (const [p, stop] of loading) if (p < first || p > last) stop.abort()
    for (let p = first; p <= last; p++) if (!pages.has(p)) void fetchPage(p)
  }
  const row = (i: number): TagRow | undefined => pages.get(Math.floor(i / PAGE))?.[i % PAGE]

  /** The place of a tag among the rows that are loaded, -1 when it is not. */
  function place(id: string): number {
    for (const [p, rows] of pages) {
      const at = rows.findIndex((r) => r.tag.id === id)
      if (at >= 0) return p * PAGE + at
    }
    return -1
  }

  /** The ids of all that the filter leaves, in its order. */
  const ids = () =>
    ask(api.GET('/api/projects/{project}/tag-ids', { params: { path: project.path, query: filter.value } }))

  async function reload() {
    generation++
    for (const stop of loading.values()) stop.abort()
    loading.clear()
    reloading?.abort()
    reloading = new AbortController()
    // Old rows stay in sight until the new ones are there.
    const keep = [...pages.keys()]
    const mine = generation
    const got = await fetchFrom(0, reloading.signal)
    if (mine !== generation || !got) return
    for (const p of keep) pages.delete(p)
    total.value = got.total
    pages.set(0, got.rows)
  }
  const soon = useDebounceFn(reload, 30)
  watch(filter, () => soon(), { deep: true })
  watch(
    () => project.versionOf('tag', 'type', 'equipment', 'device', 'folder', 'site', 'names', 'paths'),
    () => reload(),
  )
  void reload()
  const loaded = computed(() => [...pages.values()].flat())
  return { filter, total, row, place, ids, need, reload, loaded }
}
