import { useIntervalFn } from '@vueuse/core'
import { computed, onUnmounted, shallowRef, watch, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas, sentence } from '../api/client'
import { useSession } from '../api/session'
import { live } from '../live/live'

export type AreaControl = Schemas['AreaControl']
type Order = Schemas['ControlOrder']

/** How often what time alone changes is asked for: a place that was left, an asking that lapsed. */
const AGAIN_MS = 5000

/**
 * Which place has control of each area that asks for one. say tells of what others did:
 * that an asking was answered, or that control is gone.
 */
export function useControl(project: Ref<string>, say: (text: string, bad: boolean) => void) {
  const { t } = useI18n({ useScope: 'global' })
  const session = useSession()
  const list = shallowRef<AreaControl[]>([])
  let person = ''
  const path = () => ({ path: { project: project.value } })
  async function load() {
    const who = session.me?.person
    if (!who || who.nobody) return void (list.value = [])
    const next = await ask(api.GET('/api/projects/{project}/control', { params: path() })).catch(
      () => list.value,
    )
    if (person === who.id)
      next.forEach((now) =>
        tell(
          list.value.find((x) => x.area === now.area),
          now,
        ),
      )
    person = who.id
    list.value = next
  }
  function tell(before: AreaControl | undefined, now: AreaControl) {
    const name = now.name
    if (before?.holder?.mine && !now.holder?.mine && now.holder)
      say(t('control.lost', { area: name, name: now.holder.name }), true)
    if (!before?.asks?.mine || now.asks?.mine) return
    if (now.holder?.mine) say(t('control.yours', { area: name }), false)
    else say(t('control.unanswered', { area: name, name: now.holder?.name ?? t('control.nobody') }), true)
  }
  watch([project, () => session.me?.person?.id], load, { immediate: true })
  const ends = [
    live.news(
      project.value,
      (n) => (n.release || n.things?.some((x) => x.startsWith('control/'))) && void load(),
    ),
    live.onOpen(() => void load()),
  ]
  onUnmounted(() => ends.forEach((end) => end()))
  useIntervalFn(() => list.value.length && void load(), AGAIN_MS)

  /** Those in which whoever is here acts, or may take control away. */
  const mine = computed(() => list.value.filter((c) => c.acts || c.away))
  /** Where somebody asks this place to hand control over. */
  const asked = computed(() => list.value.find((c) => c.holder?.mine && c.asks))
  async function order(area: string, body: Order) {
    const params = { path: { project: project.value, area } }
    await ask(api.POST('/api/projects/{project}/control/{area}', { params, body })).finally(load)
  }
  /** Answers who asks this place. */
  const answer = (c: AreaControl, give: boolean) =>
    order(c.area, { do: give ? 'give' : 'keep', ask: c.asks?.number }).catch((e) => say(sentence(e), true))
  return { list, mine, asked, order, answer }
}
export type Control = ReturnType<typeof useControl>
