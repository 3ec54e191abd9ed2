import { useEventListener } from '@vueuse/core'

/** Signs of a badge come from its reader faster than from a hand. */
const APART_MS = 250
const LEAST = 4

/**
 * Hears a badge's reader, which types the number and Enter like a keyboard. Only while
 * nothing is typed into a field: there the signs are the field's.
 */
export function useBadge(listens: () => boolean, read: (number: string) => void) {
  let number = ''
  let last = 0
  useEventListener(
    window,
    'keydown',
    (e: KeyboardEvent) => {
      const at = e.target
      if (!listens() || e.ctrlKey || e.altKey || e.metaKey) return
      if (at instanceof HTMLInputElement || at instanceof HTMLTextAreaElement) return
      const now = performance.now()
      if (now - last > APART_MS) number = ''
      last = now
      if (e.key.length === 1) {
        number += e.key
        return
      }
      if (e.key !== 'Enter') return
      const whole = number
      number = ''
      if (whole.length < LEAST) return
      // Enter would press what has the focus.
      e.preventDefault()
      e.stopPropagation()
      read(whole)
    },
    { capture: true },
  )
}
