import { onScopeDispose, shallowRef } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import { useProject } from '../rail/project'

/** Who has the turn, what is held and how the draft is tried; kept up to date. */
export function useCommissioning() {
  const project = useProject()
  const state = shallowRef<Schemas['Commissioning']>()
  const load = async () =>
    (state.value = await ask(
      api.GET('/api/projects/{project}/commissioning', { params: { path: project.path } }),
    ).catch(() => state.value))
  void load()
  onScopeDispose(
    project.onNews((n) => n.things?.some((x) => /^(turn|override|try|loop)\//.test(x)) && load()),
  )
  return { state, load }
}
