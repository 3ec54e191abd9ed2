import { shallowRef, watch } from 'vue'
import { api, ask } from '../api/client'
import { useProject } from './project'

/** The views of recorded courses, the logs or the books of the draft by their names, to choose from. */
export function useNamed(what: 'views' | 'logs' | 'books') {
  const project = useProject()
  const list = shallowRef<{ value: string; title: string }[]>([])
  async function load() {
    if (!project.id) return
    const params = { path: { project: project.id }, query: { program: 'draft' as const } }
    const asked: Record<typeof what, () => Promise<{ id: string; name: string }[]>> = {
      views: () => ask(api.GET('/api/projects/{project}/trend/views', { params })),
      logs: () => ask(api.GET('/api/projects/{project}/logs', { params })),
      books: () => ask(api.GET('/api/projects/{project}/books', { params })),
    }
    const got = await asked[what]().catch(() => [])
    list.value = got.map((x) => ({ value: x.id, title: x.name }))
  }
  watch([() => project.id, () => project.versionOf(what === 'logs' ? 'log' : 'book')], load, {
    immediate: true,
  })
  return list
}
