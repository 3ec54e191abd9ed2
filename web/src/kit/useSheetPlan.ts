import { shallowRef } from 'vue'
import { asFile } from '../api/upload'
import { usePlan } from './usePlan'

/** What cells of a spreadsheet would do, looked at as they are given, before it is done. */
export function useSheetPlan<P>(
  send: (cells: ReturnType<typeof asFile>, apply: boolean) => Promise<P>,
  done: (made: P) => void,
) {
  const cells = shallowRef(new Blob())
  const plan = usePlan((apply) => send(asFile(cells.value), apply), done)
  function given(blob: Blob) {
    cells.value = blob
    if (blob.size) void plan.look()
    else plan.clear()
  }
  return { ...plan, given }
}
