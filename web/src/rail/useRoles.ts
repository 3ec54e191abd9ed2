import { computed, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import { useNotice } from '../kit/problem'
import { useProject } from './project'

/** The roles of the draft, with what was just edited of them. */
export function useRoles() {
  const project = useProject()
  const notice = useNotice()
  const told = shallowRef<Schemas['Role'][]>([])
  const load = async () => {
    const params = { path: project.path }
    told.value = await ask(api.GET('/api/projects/{project}/roles', { params }))
  }
  watch(
    () => project.versionOf('role'),
    () => load().catch(notice.refuse),
    { immediate: true },
  )
  return computed(() => told.value.map((r) => project.latest('role', r.id, r)))
}
