import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import { useNotice } from '../kit/problem'
import { useProject } from './project'

const FIRST = 'Watch'

/** The sets of tags on the watch strip: a person's own, by name, kept by the server. */
export const useWatched = defineStore('watched', () => {
  const project = useProject()
  const notice = useNotice()
  const sets = shallowRef<Schemas['WatchSet'][]>([])
  const name = ref(FIRST)
  watch(
    () => project.id,
    async (id) => {
      if (!id) return
      sets.value = await ask(
        api.GET('/api/projects/{project}/watch-sets', { params: { path: project.path } }),
      ).catch(() => [])
      if (!sets.value.some((s) => s.name === name.value)) name.value = sets.value[0]?.name ?? FIRST
    },
    { immediate: true },
  )

  const names = computed(() =>
    sets.value.some((s) => s.name === name.value)
      ? sets.value.map((s) => s.name)
      : [...sets.value.map((s) => s.name), name.value],
  )
  const ids = computed<string[]>({
    get: () => sets.value.find((s) => s.name === name.value)?.tags ?? [],
    set: (tags) => {
      const next = { name: name.value, tags: tags.slice(0, 60) }
      sets.value = [...sets.value.filter((s) => s.name !== name.value), next].sort((a, b) =>
        a.name.localeCompare(b.name),
      )
      ask(
        api.PUT('/api/projects/{project}/watch-sets', { params: { path: project.path }, body: next }),
      ).catch(notice.refuse)
    },
  })
  /** Begins an empty set. */
  function begin(fresh: string) {
    if (!fresh.trim()) return
    name.value = fresh.trim()
    ids.value = []
  }
  function drop() {
    const gone = name.value
    sets.value = sets.value.filter((s) => s.name !== gone)
    name.value = sets.value[0]?.name ?? FIRST
    ask(
      api.DELETE('/api/projects/{project}/watch-sets/{id}', {
        params: { path: { ...project.path, id: gone } },
      }),
    ).catch(notice.refuse)
  }
  return { sets, name, names, ids, begin, drop }
})
