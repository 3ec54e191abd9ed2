import { onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'
import { useAround } from '../canvas/around'
import type { Item } from '../canvas/element'
import { Stage } from '../canvas/stage'
import { live, type Opens, type Scene } from '../live/live'

/** Which program a Desk shows. */
export type Shown = 'release' | 'try'

/** Shows a screen of the release, or of the draft that is tried, on a stage and follows it. */
export function useScene(
  program: () => Shown,
  project: () => string,
  language: () => string,
  opens: Ref<Opens | undefined>,
  root: Ref<SVGGElement | undefined>,
  added: (item: Item) => void,
) {
  const scene = shallowRef<Scene>()
  const problem = ref('')
  const around = useAround()
  let stage: Stage | undefined
  let close: (() => void) | undefined

  watch(
    [project, language, opens, root],
    () => {
      close?.()
      problem.value = ''
      if (!root.value || !opens.value?.screen) return
      stage = new Stage(root.value, around, added)
      close = live.open(
        {
          op: 'scene',
          project: project(),
          program: program(),
          screen: opens.value.screen,
          args: opens.value.args,
          language: language(),
        },
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
    },
    { immediate: true },
  )
  onScopeDispose(() => close?.())
  return { scene, problem, stage: () => stage }
}

/** Since when nothing was heard from the server; undefined while all is well. */
export function useSilence(): Ref<Date | undefined> {
  const since = ref<Date>()
  let heard = new Date()
  const timer = window.setInterval(() => {
    if (live.silent()) since.value ??= heard
    else {
      heard = new Date()
      since.value = undefined
    }
  }, 200)
  onScopeDispose(() => clearInterval(timer))
  return since
}
