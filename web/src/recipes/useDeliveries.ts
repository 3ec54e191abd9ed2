import { useIntervalFn } from '@vueuse/core'
import { onScopeDispose, ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import type { Given } from '../desk/AskBox.vue'
import { useNotice } from '../kit/problem'
import type { Program } from './useBook'

export type TargetState = Schemas['TargetState']
export type Delivery = Schemas['DeliveryShown']
export type Plan = Schemas['DeliveryPlan']
export interface Order {
  recipe: string
  version: number
  target: string
  quantity?: number
}

const EVERY = 1000
const CLOSELY = 250

/** What the targets of a book run, and what is under way to them. */
export function useDeliveries(project: () => string, book: () => string, program: Program = 'release') {
  const query = { program }
  const notice = useNotice()
  const states = shallowRef<TargetState[]>([])
  /** The server does not answer: how it stood when it did last. */
  const silent = ref(false)
  const path = () => ({ project: project(), book: book() })
  async function look() {
    if (!book()) return
    const signal = AbortSignal.timeout(3 * EVERY)
    try {
      states.value = await ask(
        api.GET('/api/projects/{project}/books/{book}/targets', { params: { path: path(), query }, signal }),
      )
      silent.value = false
    } catch {
      silent.value = true
    }
  }
  watch([project, book], look, { immediate: true })
  let round = 0
  // While something is under way it is looked at more closely.
  useIntervalFn(() => {
    const closely = states.value.some((s) => s.underWay)
    if (!document.hidden && (closely || round++ % Math.round(EVERY / CLOSELY) === 0)) void look()
  }, CLOSELY)

  const plan = (order: Order) =>
    ask(
      api.POST('/api/projects/{project}/books/{book}/plans', {
        params: { path: path(), query },
        body: order,
      }),
    )
  /** Sends, with what was answered to what is asked; the number of the delivery. Throws where it is refused. */
  async function send(order: Order, given: Given | Record<string, never>): Promise<number> {
    const body = { ...order, ...given, key: crypto.randomUUID() }
    try {
      return await ask(
        api.POST('/api/projects/{project}/books/{book}/deliveries', {
          params: { path: path(), query },
          body,
        }),
      )
    } finally {
      await look()
    }
  }
  const one = (seq: number) =>
    ask(
      api.GET('/api/projects/{project}/deliveries/{seq}', {
        params: { path: { project: project(), seq }, query },
      }),
    )
  async function act(seq: number, act: 'cancel' | 'accept' | 'putback', reason?: string) {
    const body = { act, reason, key: crypto.randomUUID() }
    const params = { path: { project: project(), seq }, query }
    await ask(api.POST('/api/projects/{project}/deliveries/{seq}/acts', { params, body })).catch(
      notice.refuse,
    )
    await look()
  }
  const list = (which: { target?: string; before?: number; upto?: number }) => {
    const params = { path: path(), query: { ...query, ...which } }
    return ask(api.GET('/api/projects/{project}/books/{book}/deliveries', { params }))
  }
  let over = false
  onScopeDispose(() => (over = true))
  /** Waits for the end of a delivery. */
  async function ended(seq: number): Promise<Delivery | undefined> {
    while (!over) {
      const d = await one(seq).catch(() => undefined)
      if (d && d.ended && !d.progress) return d
      await new Promise((r) => setTimeout(r, CLOSELY))
    }
    return undefined
  }
  return { states, silent, look, plan, send, one, act, list, ended }
}
export type Deliveries = ReturnType<typeof useDeliveries>
