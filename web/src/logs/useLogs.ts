import { useIntervalFn } from '@vueuse/core'
import { ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import { useNotice } from '../kit/problem'

const EVERY = 2000

export type LogShown = Schemas['LogShown']
export type LogAct = 'start' | 'stop' | 'take' | 'mark' | 'export' | 'finish' | 'clear'

/**
 * The logs of a version and how they stand, looked at every other second, and as
 * the version changes.
 */
export function useLogs(project: () => string, program: 'draft' | 'release', version?: () => unknown) {
  const notice = useNotice()
  const logs = shallowRef<LogShown[]>([])
  /** When the server last told how they stand, where it no longer does; 0 while it does. */
  const silentSince = ref(0)
  let heard = Date.now()
  async function load() {
    if (!project()) return
    const params = { path: { project: project() }, query: { program } }
    try {
      const signal = AbortSignal.timeout(2 * EVERY)
      logs.value = await ask(api.GET('/api/projects/{project}/logs', { params, signal }))
      heard = Date.now()
      silentSince.value = 0
    } catch {
      silentSince.value = heard
    }
  }
  watch([project, () => version?.()], load, { immediate: true })
  useIntervalFn(() => !document.hidden && load(), EVERY)

  /** Does something to a log; false where it was refused. */
  async function act(id: string, act: LogAct, text?: string): Promise<boolean> {
    const params = { path: { project: project(), id } }
    const done = await ask(
      api.POST('/api/projects/{project}/logs/{id}/acts', { params, body: { act, text } }),
    ).then(
      () => true,
      (e) => (notice.refuse(e), false),
    )
    await load()
    return done
  }
  /** Deletes what a log kept that the release has no more. */
  async function drop(id: string, reason: string) {
    const params = { path: { project: project(), id }, query: { reason } }
    await ask(api.DELETE('/api/projects/{project}/logs/{id}', { params })).catch(notice.refuse)
    await load()
  }
  return { logs, silentSince, act, drop }
}
