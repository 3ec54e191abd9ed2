import { useLocalStorage } from '@vueuse/core'
import { computed, type Ref } from 'vue'

const store = useLocalStorage<Record<string, string[]>>('rr-watch', {})

/** The ids of the tags on the watch strip of a project; kept in this browser. */
export function watched(project: Ref<string>) {
  return computed<string[]>({
    get: () => store.value[project.value] ?? [],
    set: (ids) => (store.value = { ...store.value, [project.value]: ids }),
  })
}
