import { ref, shallowRef, watch, type WatchSource } from 'vue'
import { sentence } from '../../api/client'
import { useProject } from '../../rail/project'

/**
 * An edit that is shown before it is made: asked anew a moment after what it
 * depends on changes; the last one asked is the one shown.
 */
export function usePlan<P>(sources: WatchSource[], run: (apply: boolean) => Promise<P> | undefined) {
  const project = useProject()
  const plan = shallowRef<P>()
  const problem = ref('')
  let asked = 0
  let timer = 0

  async function ask(apply: boolean): Promise<P | undefined> {
    const mine = ++asked
    problem.value = ''
    const going = run(apply)
    if (!going) return void (plan.value = undefined)
    try {
      const got = await going
      if (mine === asked) plan.value = got
      if (apply) await project.refresh()
      return got
    } catch (e) {
      if (mine !== asked) return undefined
      plan.value = undefined
      problem.value = sentence(e)
    }
  }
  watch(sources, () => {
    clearTimeout(timer)
    timer = window.setTimeout(() => void ask(false), 200)
  })
  void ask(false)
  /** Makes the edit; undefined where it was refused. */
  const make = () => {
    clearTimeout(timer)
    return ask(true)
  }
  return { plan, problem, make }
}
