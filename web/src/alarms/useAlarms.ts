import { computed, onScopeDispose, shallowRef, watch, type Ref } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import { live } from '../live/live'

export type Board = Schemas['AlarmBoard']
export type Standing = Schemas['StandingAlarm']
export type Act = Schemas['AlarmAct']['act']

interface Asked { project: string; program: 'release' | 'try' | 'draft'; all: boolean; language: string }

/** A board that several lists of one page share, asked for once; it ends with the last of them. */
class SharedBoard {
  board = shallowRef<Board>()
  users = 0
  private asking = false
  private again = false
  private readonly end: () => void

  constructor(private readonly asked: Asked) {
    this.end = live.news(asked.project, (n) => (n.release || n.things?.some((x) => x.startsWith('alarms/') || x.startsWith('alarm/'))) && void this.load())
    void this.load()
  }

  /** One question at a time; what changes meanwhile is asked once more. */
  async load() {
    if (this.asking) return void (this.again = true)
    this.asking = true
    const { project, program, all, language } = this.asked
    do {
      this.again = false
      this.board.value = await ask(api.GET('/api/projects/{project}/alarms', { params: { path: { project }, query: { program, all, language: language || undefined } } })).catch(() => this.board.value)
    } while (this.again)
    this.asking = false
  }

  close() {
    this.end()
  }
}

const boards = new Map<string, SharedBoard>()

/** How the alarms of what runs stand, kept up to date by the server's news. */
export function useAlarms(project: Ref<string>, program: () => 'release' | 'try' | 'draft', all = false, language: () => string = () => '') {
  const shared = shallowRef<SharedBoard>()
  let key = ''
  function leave() {
    const old = boards.get(key)
    if (!old || --old.users > 0) return
    old.close()
    boards.delete(key)
  }
  watch([project, program, language], () => {
    const asked = { project: project.value, program: program(), all, language: language() }
    const next = JSON.stringify(asked)
    if (next === key) return
    const b = boards.get(next) ?? new SharedBoard(asked)
    boards.set(next, b)
    b.users++
    leave()
    key = next
    shared.value = b
  }, { immediate: true })
  onScopeDispose(leave)

  const board = computed(() => shared.value?.board.value)
  const act = (alarms: string[], what: Act, more: { minutes?: number; reason?: string } = {}) => ask(api.POST('/api/projects/{project}/alarms/acts', { params: { path: { project: project.value } }, body: { alarms, act: what, ...more } }))
  return { board, act }
}

export const PRIORITIES = ['critical', 'high', 'medium', 'low'] as const
export const unseen = (a: Standing): boolean => a.state === 'unacknowledged' || a.state === 'returned' || a.state === 'latched-unack'
export const annunciated = (a: Standing): boolean => unseen(a) || a.state === 'acknowledged' || a.state === 'latched-ack'

export const KINDS = ['high-high', 'high', 'low', 'low-low', 'state', 'deviation', 'rate', 'discrepancy', 'quality', 'formula'] as const
/** Whether a kind compares a number with a limit. */
export const isLimited = (kind: string): boolean => ['high-high', 'high', 'low', 'low-low', 'deviation', 'rate'].includes(kind)
