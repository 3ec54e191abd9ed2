import { useIntervalFn, watchDebounced } from '@vueuse/core'
import { ref, shallowRef } from 'vue'
import { api, ask, type Schemas, sentence } from '../api/client'
import { questionOf, type TrailFilter } from './trailFilter'

export type TrailRecord = Schemas['TrailRecord']

/** Records are looked at anew this often while the newest are shown. */
const EVERY = 2000
const PAGE = 100

/** What a filter takes of a project's trail, newest first; tag is the one whose own trail it is. */
export function useTrailList(
  project: () => string,
  filter: () => TrailFilter,
  tag: () => string | undefined,
) {
  const records = shallowRef<TrailRecord[]>([])
  const next = ref(0)
  const searching = ref(false)
  const problem = ref('')
  let asked = 0

  async function load(further = false) {
    const mine = ++asked
    let found = further ? records.value : []
    const enough = found.length + PAGE / 2
    let before = further ? next.value : 0
    const question = questionOf(filter(), tag(), Date.now())
    try {
      // A search through millions comes in portions: what is found shows at once.
      do {
        const page = await ask(
          api.GET('/api/projects/{project}/audit', {
            params: { path: { project: project() }, query: { ...question, before, limit: PAGE } },
          }),
        )
        if (mine !== asked) return
        found = [...found, ...page.records]
        before = page.next
        searching.value = !!before && found.length < enough
        records.value = found
        next.value = before
      } while (searching.value)
      problem.value = ''
    } catch (e) {
      if (mine === asked) problem.value = sentence(e)
      searching.value = false
    }
  }
  watchDebounced([project, filter, tag], () => load(), { debounce: 200, deep: true })
  void load()
  useIntervalFn(() => !searching.value && records.value.length <= PAGE && load(), EVERY)
  return { records, next, searching, problem, load }
}
