import { computed, shallowReactive, shallowRef, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Opens, Scene } from '../live/live'
import type { Shown } from './useScene'
import type { Desk, Signing } from './useDesk'
import type ScreenView from './ScreenView.vue'

type View = InstanceType<typeof ScreenView>
type Window = Opens & { key: number }

/** The screens that are open at the Desk: the one of the page, and windows over it. */
export function useOpened(
  desk: Desk,
  project: Ref<string>,
  program: Ref<Shown>,
  signing: Ref<Signing | undefined>,
) {
  const route = useRoute()
  const router = useRouter()
  const windows = shallowRef<Window[]>([])
  // The screen that is open, with what its parameters stand for.
  const given = shallowRef<Opens>()
  const current = computed(() => {
    const id = route.params.screen as string
    const all = (desk.desk.value?.screens ?? []).filter((s) => !s.role)
    return all.find((s) => s.id === id) ?? all.find((s) => s.home && !s.locked) ?? all.find((s) => !s.locked)
  })
  // The same one stays itself: another is opened anew, which lets go of what is held.
  const main = computed<Opens | undefined>((old) => {
    const s = current.value
    if (!s || s.locked) return undefined
    if (given.value?.screen === s.id) return given.value
    return old?.screen === s.id && !old.args ? old : { screen: s.id }
  })

  // Each drawn screen by its place on the page.
  const views = shallowReactive(new Map<string, View>())
  const keepers = new Map<string, (v: unknown) => void>()
  /** Keeps what draws the screen at a place of the page. */
  function keep(place: string): (v: unknown) => void {
    if (!keepers.has(place))
      keepers.set(place, (v) => void (v ? views.set(place, v as View) : views.delete(place)))
    return keepers.get(place)!
  }
  const placeOf = (w: Window) => 'w' + w.key
  const view = computed(() => views.get('main'))
  const viewOf = (opens: Opens) =>
    opens === main.value ? view.value : [...views.values()].find((v) => v.scene?.screen === opens.screen)
  const sceneOf = (opens: Opens): Scene | undefined => viewOf(opens)?.scene
  function titleOf(w: Window): string {
    const scene = views.get(placeOf(w))?.scene
    return scene?.title || scene?.name || ''
  }

  /** Which place of the navigation is open. */
  const here = computed(() => {
    const places = desk.places.value.filter((n) => n.id === current.value?.id)
    const args = view.value?.scene?.args ?? {}
    return (
      places.find((n) => Object.entries(n.opens.args ?? {}).every(([k, v]) => args[k] === v)) ?? places[0]
    )
  })

  let nextWindow = 1
  async function go(opens: Opens) {
    const s = desk.desk.value?.screens.find((x) => x.id === opens.screen)
    if (s?.locked) {
      signing.value = { opens, roles: s.roles }
      return
    }
    if (s?.role === 'popup' || s?.role === 'faceplate') {
      const same = JSON.stringify([opens.screen, opens.args])
      if (!windows.value.some((w) => JSON.stringify([w.screen, w.args]) === same))
        windows.value = [...windows.value, { ...opens, key: nextWindow++ }]
      return
    }
    windows.value = []
    given.value = opens.args ? opens : undefined
    await router.push({
      name: program.value === 'try' ? 'try' : 'desk',
      params: { project: project.value, screen: opens.screen },
    })
  }
  /** Gives a parameter of an open screen another value. */
  function give(opens: Opens, param: string, value: string) {
    const next = { screen: opens.screen, args: { ...sceneOf(opens)?.args, ...opens.args, [param]: value } }
    if (opens === main.value) given.value = next
    else windows.value = windows.value.map((w) => (w === opens ? { ...w, ...next } : w))
  }
  const close = (opens: Opens | undefined) => (windows.value = windows.value.filter((w) => w !== opens))
  /** The drawn screens, the one in front first. */
  function inOrder(): (View | undefined)[] {
    const front = windows.value.at(-1)
    return [front && views.get(placeOf(front)), view.value, views.get('header'), views.get('footer')]
  }

  return {
    ...{ windows, current, main, here, go, give, close },
    ...{ keep, placeOf, view, viewOf, sceneOf, titleOf, inOrder },
  }
}
export type Opened = ReturnType<typeof useOpened>
