import { useDebounceFn } from '@vueuse/core'
import { computed, ref, shallowReactive, watch } from 'vue'
import { api, ask, type TagRow } from '../api/client'
import { useProject } from '../rail/project'

const PAGE = 100

export type Only = '' | 'bad' | 'unused' | 'findings' | 'writable'
export type Sort = '' | 'path' | 'type' | 'address' | 'uses'

/** The filtered list of tags, of which only the pages in sight are fetched. */
export function useTagList() {
  const project = useProject()
  const filter = ref({ text: '', folder: '', device: '', type: '', only: '' as Only, sort: '' as Sort, down: false })
  const total = ref(0)
  const pages = shallowReactive(new Map<number, TagRow[]>())
  const loading = new Set<number>()
  let generation = 0

  async function fetchPage(page: number) {
    if (loading.has(page)) return
    loading.add(page)
    const mine = generation
    const got = await ask(api.GET('/api/projects/{project}/tags', { params: { path: project.path, query: { ...filter.value, offset: page * PAGE, limit: PAGE } } })).catch(() => undefined)
    if (mine !== generation) return
    loading.delete(page)
    if (!got) return
    total.value = got.total
    pages.set(page, got.rows)
  }

  /** Makes sure that the rows from a to b are on their way. */
  function need(a: number, b: number) {
    for (let p = Math.floor(a / PAGE); p <= Math.floor(b / PAGE); p++) if (!pages.has(p)) void fetchPage(p)
  }
  const row = (i: number): TagRow | undefined => pages.get(Math.floor(i / PAGE))?.[i % PAGE]

  async function reload() {
    generation++
    loading.clear()
    // Old rows stay in sight until the new ones are there.
    const keep = [...pages.keys()]
    const mine = generation
    const got = await ask(api.GET('/api/projects/{project}/tags', { params: { path: project.path, query: { ...filter.value, offset: 0, limit: PAGE } } })).catch(() => undefined)
    if (mine !== generation || !got) return
    for (const p of keep) pages.delete(p)
    total.value = got.total
    pages.set(0, got.rows)
  }
  const soon = useDebounceFn(reload, 60)
  watch(filter, () => soon(), { deep: true })
  watch(() => project.version, () => reload())
  void reload()
  const loaded = computed(() => [...pages.values()].flat())
  return { filter, total, row, need, reload, loaded }
}
