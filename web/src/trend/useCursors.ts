import { refDebounced } from '@vueuse/core'
import { computed, shallowRef, watch, type Ref } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import type { Source } from './source'

export type Cursor = 'a' | 'b'

/** Two moments, and what the server says that tags did between them. */
export function useCursors(source: () => Source, tags: Ref<string[]>) {
  const cursors = shallowRef<Partial<Record<Cursor, number>>>({})
  const between = shallowRef<Schemas['Between'][]>([])
  const span = computed(() => {
    const { a, b } = cursors.value
    return a === undefined || b === undefined || a === b
      ? undefined
      : { a: Math.round(Math.min(a, b)), b: Math.round(Math.max(a, b)) }
  })
  const asked = refDebounced(
    computed(() => span.value && { ...span.value, tags: tags.value.join(','), log: source().log }),
    150,
  )
  watch(asked, async (query) => {
    if (!query) return (between.value = [])
    const got = await ask(
      api.GET('/api/projects/{project}/trend/between', {
        params: { path: { project: source().project }, query },
      }),
    ).catch(() => [])
    if (asked.value === query) between.value = got
  })
  const put = (name: Cursor, at: number) => (cursors.value = { ...cursors.value, [name]: at })
  const clear = () => (cursors.value = {})
  return { cursors, span, between, put, clear }
}
