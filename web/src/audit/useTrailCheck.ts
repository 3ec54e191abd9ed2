import { useIntervalFn } from '@vueuse/core'
import { ref, shallowRef } from 'vue'
import { api, ask, type Schemas, sentence } from '../api/client'

const at = '/api/projects/{project}/audit/seal'

/**
 * How the seals of a project's trail were last found, and the check that is under way: it
 * goes on at the server, and is asked for until it ends.
 */
export function useTrailCheck(project: string) {
  const seal = shallowRef<Schemas['Seal']>()
  const problem = ref('')
  const path = { params: { path: { project } } }
  const { pause, resume } = useIntervalFn(() => void look(), 400, { immediate: false })
  async function take(answer: Promise<Schemas['Seal']>) {
    try {
      seal.value = await answer
      problem.value = ''
    } catch (e) {
      problem.value = sentence(e) // a check that was under way is asked after again
    }
    if (seal.value?.busy) resume()
    else pause()
  }
  const look = () => take(ask(api.GET(at, path)))
  const check = () => take(ask(api.POST(at, path)))
  void look()
  return { seal, problem, look, check }
}
