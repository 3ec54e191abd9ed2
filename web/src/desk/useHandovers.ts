import { computed, onUnmounted, shallowRef, watch, type Ref } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import { useSession } from '../api/session'
import { live } from '../live/live'

export type Handover = Schemas['Handover']

/** The notes that shifts left, and the one that waits for whoever is here now. */
export function useHandovers(project: Ref<string>, may: () => boolean) {
  const session = useSession()
  const list = shallowRef<Handover[]>([])
  const path = () => ({ path: { project: project.value } })
  async function load() {
    if (!session.me?.person || session.me.person.nobody) return void (list.value = [])
    list.value = await ask(api.GET('/api/projects/{project}/handovers', { params: path() })).catch(
      () => list.value,
    )
  }
  watch([project, () => session.me?.person?.id], load, { immediate: true })
  const ends = [
    live.news(project.value, (n) => n.things?.some((x) => x.startsWith('handover/')) && void load()),
    live.onOpen(() => void load()),
  ]
  onUnmounted(() => ends.forEach((end) => end()))
  /** The newest that nobody has taken over, and somebody else wrote. */
  const waiting = computed(() => (may() ? list.value.find((h) => !h.takenAt && !h.mine) : undefined))
  async function leave(text: string) {
    await ask(api.POST('/api/projects/{project}/handovers', { params: path(), body: { text } }))
    await load()
  }
  async function take(seq: number) {
    const params = { path: { project: project.value, seq } }
    await ask(api.POST('/api/projects/{project}/handovers/{seq}/taken', { params })).finally(load)
  }
  return { list, waiting, leave, take }
}
export type Handovers = ReturnType<typeof useHandovers>
