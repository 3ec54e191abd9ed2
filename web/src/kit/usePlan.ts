import { ref, shallowRef } from 'vue'
import { sentence } from '../api/client'

/** What a change in bulk would do, looked at before it is done; only the answer to the last asking counts. */
export function usePlan<P>(send: (apply: boolean) => Promise<P>, done: (made: P) => void) {
  const plan = shallowRef<P>()
  const problem = ref('')
  const busy = ref(false)
  let asked = 0
  async function look() {
    const mine = ++asked
    try {
      const got = await send(false)
      if (mine !== asked) return
      plan.value = got
      problem.value = ''
    } catch (e) {
      if (mine !== asked) return
      plan.value = undefined
      problem.value = sentence(e)
    }
  }
  async function apply() {
    busy.value = true
    try {
      done(await send(true))
    } catch (e) {
      problem.value = sentence(e)
    } finally {
      busy.value = false
    }
  }
  const clear = () => {
    asked++
    plan.value = undefined
    problem.value = ''
  }
  return { plan, problem, busy, look, apply, clear }
}
