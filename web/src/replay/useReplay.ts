import { onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'
import { useAround } from '../canvas/around'
import { Stage } from '../canvas/stage'
import { api, ask, sentence } from '../api/client'
import type { Frame, Scene } from '../live/live'
import type { Marks } from '../trend/useMarks'
import { flagsAt } from './flags'

/** Speeds at which recorded time is played, in times of its own. */
export const speeds = [1, 10, 60, 600]
const EVERY = 100
/** A question is given up after this: the link may have gone under it. */
const PATIENCE = 10_000

/** Shows a screen as it stood at a moment, which may go on by itself. */
export function useReplay(
  project: () => string,
  screen: () => string | undefined,
  args: () => string,
  language: () => string,
  program: () => 'draft' | 'release',
  at: Ref<number>,
  root: Ref<SVGGElement | undefined>,
  /** What happened about the moment; nothing where that is not known whole. */
  marks: () => Marks | undefined,
) {
  const scene = shallowRef<Scene>()
  const problem = ref('')
  /** The moment that is drawn: what is asked for may be on its way. */
  const shown = ref(at.value)
  const around = useAround()
  const playing = ref(false)
  let stage: Stage | undefined
  let drawn = ''
  let asking = false
  let again = false

  const place = () => ({ project: project(), id: screen()! })
  const query = () => ({ at: Math.round(at.value), args: args(), language: language(), program: program() })

  /** The alarms' flags as they stood at the moment that is drawn. */
  function flag() {
    const m = marks()
    stage?.alarms(m ? flagsAt(m, shown.value) : new Map())
  }
  watch(marks, flag)

  // One question at a time: the newest moment is what is asked next.
  async function load() {
    if (!root.value || !screen()) return
    if (asking) return void (again = true)
    asking = true
    const shape = JSON.stringify([place(), args(), language(), program()])
    try {
      const fresh = shape !== drawn
      const frame = await ask(
        api.GET('/api/projects/{project}/replay/{id}', {
          params: { path: place(), query: { ...query(), scene: fresh } },
          signal: AbortSignal.timeout(PATIENCE),
        }),
      )
      problem.value = ''
      if (frame.scene) {
        root.value.replaceChildren()
        stage = new Stage(root.value, around)
        scene.value = frame.scene
        stage.load(frame.scene)
        drawn = shape
      }
      stage?.apply({ t: frame.t, v: frame.v as Frame['v'] })
      shown.value = frame.t
      flag()
    } catch (e) {
      playing.value = false
      problem.value = sentence(e)
    }
    asking = false
    if (again) {
      again = false
      void load()
    }
  }
  watch([at, project, screen, args, language, program, root], load, { immediate: true })

  const speed = ref(10)
  let last = 0
  const timer = window.setInterval(() => {
    const now = performance.now()
    if (playing.value) {
      at.value = Math.min(Date.now(), at.value + (now - last) * speed.value)
      if (at.value >= Date.now() - EVERY) playing.value = false
    }
    last = now
  }, EVERY)
  onScopeDispose(() => clearInterval(timer))

  /** Goes to the next moment at which something on the screen changed, or the last one. */
  async function step(back: boolean) {
    playing.value = false
    try {
      const to = await ask(
        api.GET('/api/projects/{project}/replay/{id}/step', {
          params: { path: place(), query: { ...query(), back } },
        }),
      )
      at.value = to.at
    } catch (e) {
      problem.value = sentence(e)
    }
  }
  return { scene, problem, shown, playing, speed, step }
}
