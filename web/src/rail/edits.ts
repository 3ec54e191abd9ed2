import type { ComputedRef } from 'vue'
import { api, ask, type Op, Refused } from '../api/client'
import { useNotice } from '../kit/problem'
import { usePending } from './pending'

/** Edits of the project: they show at once, go out one after the other as they were made, and are taken back. */
export function useEdits(path: ComputedRef<{ project: string }>) {
  const pending = usePending()
  const notice = useNotice()
  let last: Promise<unknown> = Promise.resolve()

  /** Applies an edit; a refusal is said and given back. */
  async function edit(label: string, ops: Op[]): Promise<Refused | undefined> {
    const mine = pending.begin(ops)
    const send = () =>
      ask(api.POST('/api/projects/{project}/edits', { params: { path: path.value }, body: { label, ops } }))
    const sent = last.then(send, send)
    last = sent
    try {
      pending.done(mine, (await sent).revision)
      return undefined
    } catch (e) {
      pending.refuse(mine)
      notice.refuse(e)
      if (e instanceof Refused) return e
      throw e
    }
  }

  /** Takes the last edit back, or makes it again; say tells which it was. */
  async function step(way: 'undo' | 'redo', say: (label: string) => string) {
    try {
      await last.catch(() => undefined) // what was typed before is what is taken back
      pending.settle()
      const params = { path: path.value }
      const r = await ask(
        way === 'undo'
          ? api.POST('/api/projects/{project}/undo', { params })
          : api.POST('/api/projects/{project}/redo', { params }),
      )
      notice.say(say(r.label))
    } catch (e) {
      notice.refuse(e)
    }
  }
  return { pending, edit, step }
}
