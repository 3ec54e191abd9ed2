import { refDebounced, useIntervalFn } from '@vueuse/core'
import { computed, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import type { useRange } from './range'

export type Marks = Schemas['Marks']

/** While now is followed, what happened is asked for this often. */
const EVERY = 5000

/** What happened in the range that is looked at: alarms, what people did, and their notes. */
export function useMarks(project: () => string, looked: ReturnType<typeof useRange>, stood = false) {
  const marks = shallowRef<Marks>()
  const asked = refDebounced(
    computed(() => (looked.following.value ? undefined : looked.range.value)),
    300,
  )
  async function load() {
    const { from, to } = looked.range.value
    const query = { from: Math.round(from), to: Math.round(to), stood }
    const params = { path: { project: project() }, query }
    // What is not heard is not known: nothing is better than what was of another time.
    marks.value = await ask(api.GET('/api/projects/{project}/trend/marks', { params })).catch(() => undefined)
  }
  watch([project, asked, looked.length], load, { immediate: true })
  useIntervalFn(() => looked.following.value && !document.hidden && load(), EVERY)
  return { marks, load }
}
