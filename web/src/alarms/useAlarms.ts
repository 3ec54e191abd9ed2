import { onUnmounted, shallowRef, watch, type Ref } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import { live } from '../live/live'

export type Board = Schemas['AlarmBoard']
export type Standing = Schemas['StandingAlarm']
export type Act = Schemas['AlarmAct']['act']

/** How the alarms of what runs stand, kept up to date by the server's news. */
export function useAlarms(project: Ref<string>, program: () => 'release' | 'try' | 'draft', all = false, language: () => string = () => '') {
  const board = shallowRef<Board>()
  let asking = false
  let again = false

  async function load() {
    // One question at a time; what changes meanwhile is asked once more.
    if (asking) return void (again = true)
    asking = true
    do {
      again = false
      board.value = await ask(api.GET('/api/projects/{project}/alarms', { params: { path: { project: project.value }, query: { program: program(), all, language: language() || undefined } } })).catch(() => board.value)
    } while (again)
    asking = false
  }
  let close = () => {}
  watch(language, () => void load())
  watch(project, (id) => {
    close()
    close = live.news(id, (n) => (n.release || n.things?.some((x) => x.startsWith('alarms/') || x.startsWith('alarm/'))) && void load())
    void load()
  }, { immediate: true })
  onUnmounted(() => close())

  const act = (alarms: string[], what: Act, more: { minutes?: number; reason?: string } = {}) => ask(api.POST('/api/projects/{project}/alarms/acts', { params: { path: { project: project.value } }, body: { alarms, act: what, ...more } }))
  return { board, load, act }
}

export const PRIORITIES = ['critical', 'high', 'medium', 'low'] as const
export const unseen = (a: Standing): boolean => a.state === 'unacknowledged' || a.state === 'returned' || a.state === 'latched-unack'
export const annunciated = (a: Standing): boolean => unseen(a) || a.state === 'acknowledged' || a.state === 'latched-ack'
