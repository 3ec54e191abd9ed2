import { computed, ref, type Ref } from 'vue'

/** How many rows of a list are drawn at first, and come with each asking for more. */
const STEP = 200

/** The first rows of a list that may be long: a flood must not hold the page up by drawing what nobody can read. */
export function usePage<T>(rows: Ref<readonly T[]>) {
  const most = ref(STEP)
  const page = computed(() => rows.value.slice(0, most.value))
  const left = computed(() => rows.value.length - page.value.length)
  return { page, left, more: () => (most.value += STEP) }
}
