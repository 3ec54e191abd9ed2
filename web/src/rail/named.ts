import { shallowRef, watch } from 'vue'
import { api, ask } from '../api/client'
import { useProject } from './project'

/** The views of recorded courses, or the logs, of the draft by their names, to choose from. */
export function useNamed(what: 'views' | 'logs') {
  const project = useProject()
  const list = shallowRef<{ value: string; title: string }[]>([])
  async function load() {
    if (!project.id) return
    const params = { path: { project: project.id }, query: { program: 'draft' as const } }
    const asked: Promise<{ id: string; name: string }[]> =
      what === 'views'
        ? ask(api.GET('/api/projects/{project}/trend/views', { params }))
        : ask(api.GET('/api/projects/{project}/logs', { params }))
    const got = await asked.catch(() => [])
    list.value = got.map((x) => ({ value: x.id, title: x.name }))
  }
  watch([() => project.id, () => project.version], load, { immediate: true })
  return list
}
