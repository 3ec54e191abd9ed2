import { onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'
import { Stage, type Item } from '../canvas/stage'
import { live, type Scene } from '../live/live'

/** Shows a screen of the release, or of the draft that is tried, on a stage and follows it. */
export function useScene(program: () => 'release' | 'try', project: Ref<string>, screen: Ref<string>, root: Ref<SVGGElement | undefined>, added: (item: Item) => void) {
  const scene = shallowRef<Scene>()
  const problem = ref('')
  /** Since when nothing was heard; undefined while all is well. */
  const silentSince = ref<Date>()
  let stage: Stage | undefined
  let close: (() => void) | undefined

  watch([project, screen, root], () => {
    close?.()
    problem.value = ''
    if (!root.value || !screen.value) return
    stage = new Stage(root.value, added)
    close = live.open(
      { op: 'scene', project: project.value, program: program(), screen: screen.value },
      (f) => {
        problem.value = ''
        if (f.scene) {
          scene.value = f.scene
          stage!.load(f.scene)
        }
        if (f.v) stage!.apply(f)
      },
      (text) => (problem.value = text),
    )
  }, { immediate: true })

  let heard = new Date()
  const timer = window.setInterval(() => {
    if (live.silent()) silentSince.value ??= heard
    else {
      heard = new Date()
      silentSince.value = undefined
    }
  }, 200)
  onScopeDispose(() => {
    close?.()
    clearInterval(timer)
  })
  return { scene, problem, silentSince, stage: () => stage }
}
