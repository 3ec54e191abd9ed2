import { computed, onScopeDispose, ref, shallowRef, watch, type Ref } from 'vue'
import { api, ask, type Schemas, sentence } from '../api/client'
import { useAsked } from '../desk/asked'
import { i18n } from '../i18n'
import { word } from '../i18n/word'
import { live } from '../live/live'

export type Board = Schemas['AlarmBoard']
export type Standing = Schemas['StandingAlarm']
export type Act = Schemas['AlarmAct']['act']

interface Asked {
  project: string
  program: 'release' | 'try' | 'draft'
  all: boolean
  language: string
}

/** How often a board is compared with what the server tells, and until when it may be behind, in milliseconds. */
const COMPARE_MS = 300
const BEHIND_MS = 1500
const RETRY_MS = 2000

/**
 * A board that several lists of one page share, asked for once; it ends with
 * the last of them. It is asked for anew with every connection, and compared by
 * its number with what the live connection tells: while it is behind, or nothing
 * is heard, it is unsure, and whoever shows it veils it.
 */
class SharedBoard {
  board = shallowRef<Board>()
  unsure = ref(true)
  problem = ref('')
  users = 0
  private asking = false
  private again = false
  private behind = 0
  private failed = 0
  private readonly ends: (() => void)[]

  constructor(private readonly asked: Asked) {
    const timer = window.setInterval(() => this.compare(), COMPARE_MS)
    this.ends = [
      live.news(
        asked.project,
        (n) =>
          (n.release || n.things?.some((x) => x.startsWith('alarms/') || x.startsWith('alarm/'))) &&
          void this.load(),
      ),
      live.onOpen(() => void this.load()),
      () => clearInterval(timer),
    ]
    void this.load()
  }

  private compare() {
    const now = performance.now()
    const told = live.alarmNumber(this.asked.project, this.asked.program)
    const has = this.board.value?.number
    const current = !live.silent() && told !== undefined && has !== undefined && has >= told
    if (current) this.behind = 0
    else this.behind ||= now
    this.unsure.value = live.silent() || has === undefined || (!current && now - this.behind > BEHIND_MS)
    if (!current && !live.silent() && now - this.failed > RETRY_MS) void this.load()
  }

  /** One question at a time; what changes meanwhile is asked once more. */
  async load() {
    if (this.asking) return void (this.again = true)
    this.asking = true
    const { project, program, all, language } = this.asked
    do {
      this.again = false
      try {
        const got = await ask(
          api.GET('/api/projects/{project}/alarms', {
            params: { path: { project }, query: { program, all, language: language || undefined } },
          }),
        )
        this.board.value = { ...got, alarms: kept(got.alarms, this.board.value?.alarms ?? []) }
        this.problem.value = ''
        this.failed = 0
      } catch (e) {
        this.problem.value = sentence(e)
        this.failed = performance.now()
      }
    } while (this.again && !this.failed)
    this.asking = false
  }

  close() {
    this.ends.forEach((end) => end())
  }
}

/** The alarms of a new answer, those that are as they were as the same objects: a row of which nothing changed is not drawn again. */
function kept(fresh: Standing[], before: Standing[]): Standing[] {
  const old = new Map(before.map((a) => [a.id, a]))
  return fresh.map((a) => {
    const was = old.get(a.id)
    return was && JSON.stringify(was) === JSON.stringify(a) ? was : a
  })
}

const boards = new Map<string, SharedBoard>()

/** How the alarms of what runs stand, kept up to date by the server's news. */
export function useAlarms(
  project: Ref<string>,
  program: () => 'release' | 'try' | 'draft',
  all = false,
  language: () => string = () => '',
) {
  const asked = useAsked()
  const shared = shallowRef<SharedBoard>()
  let key = ''
  function leave() {
    const old = boards.get(key)
    if (!old || --old.users > 0) return
    old.close()
    boards.delete(key)
  }
  watch(
    [project, program, language],
    () => {
      const asked = { project: project.value, program: program(), all, language: language() }
      const next = JSON.stringify(asked)
      if (next === key) return
      const b = boards.get(next) ?? new SharedBoard(asked)
      boards.set(next, b)
      b.users++
      leave()
      key = next
      shared.value = b
    },
    { immediate: true },
  )
  onScopeDispose(leave)

  const board = computed(() => shared.value?.board.value)
  /**
   * Acts on alarms, once what that asks is answered, a comment where one is wanted; nothing comes
   * back where the person gives up.
   */
  const act = (alarms: string[], what: Act, comment = false) => {
    const { t } = i18n.global
    const list = board.value?.alarms.filter((a) => alarms.includes(a.id)) ?? []
    const name = list[0] ? `${list[0].path} · ${list[0].name}` : ''
    const doing = {
      title: t(word('alarm.act', what)),
      says: list.length > 1 ? t('alarm.andMore', { name, n: list.length - 1 }) : name,
      minutes: what === 'shelved' ? Math.min(...list.map((a) => a.longest)) : undefined,
    }
    return asked.send(
      doing,
      (answer) =>
        ask(
          api.POST('/api/projects/{project}/alarms/acts', {
            params: { path: { project: project.value } },
            body: { alarms, act: what, ...answer },
          }),
        ),
      comment ? { reason: 'required', roleNames: [], name: false } : undefined,
    )
  }
  const unsure = computed(() => shared.value?.unsure.value ?? true)
  const problem = computed(() => shared.value?.problem.value ?? '')
  return { board, unsure, problem, act }
}

export const PRIORITIES = ['critical', 'high', 'medium', 'low'] as const
export const unseen = (a: Standing): boolean =>
  a.state === 'unacknowledged' || a.state === 'returned' || a.state === 'latched-unack'
export const annunciated = (a: Standing): boolean =>
  unseen(a) || a.state === 'acknowledged' || a.state === 'latched-ack'

export const KINDS = [
  'high-high',
  'high',
  'low',
  'low-low',
  'state',
  'deviation',
  'rate',
  'discrepancy',
  'quality',
  'formula',
] as const
/** Whether a kind compares a number with a limit. */
export const isLimited = (kind: string): boolean =>
  ['high-high', 'high', 'low', 'low-low', 'deviation', 'rate'].includes(kind)
