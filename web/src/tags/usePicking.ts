import { ref } from 'vue'

/** What a list is beside, where a click in it puts tags there or takes them away. */
export interface Beside {
  /** The tags that are there; none where the list is dragged from only. */
  taken?: ReadonlySet<string>
  take: (id: string) => void
}

/**
 * Tags picked in a list to be dragged: one by one, several with Ctrl, a range
 * with Shift. A line that is no tag has no id. Beside something that takes them,
 * a pick puts one there or takes it away.
 */
export function usePicking(idAt: (line: number) => string | undefined, beside: () => Beside) {
  const picked = ref(new Set<string>())
  let last = -1

  function pick(id: string, at: number, e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) {
    if (beside().taken) return beside().take(id)
    const more = e.ctrlKey || e.metaKey
    if (e.shiftKey && last >= 0) {
      const range = Array.from({ length: Math.abs(at - last) + 1 }, (_, i) => idAt(Math.min(at, last) + i))
      picked.value = new Set([...(more ? picked.value : []), ...range.filter((x): x is string => !!x)])
      return
    }
    last = at
    const next = more ? new Set(picked.value) : new Set<string>()
    if (!next.delete(id)) next.add(id)
    picked.value = next
  }
  function drag(id: string, e: DragEvent) {
    const tags = picked.value.has(id) ? [...picked.value] : [id]
    e.dataTransfer?.setData('application/x-rr-tags', JSON.stringify(tags))
  }
  const on = (id: string) => (beside().taken ?? picked.value).has(id)
  return { on, pick, drag }
}
