import { useEventListener } from '@vueuse/core'
import type { Opens } from '../live/live'

/** What answers to a function key: a screen with a button for it. */
interface Keyed {
  functionKey: (key: string) => boolean
}

interface Desk {
  /** Whether something lies over the Desk that takes the keys itself. */
  blocked: () => boolean
  closeWindow: () => void
  /** The screens that show, the one in front first. */
  screens: () => (Keyed | undefined)[]
  places: () => Opens[]
  here: () => number
  go: (opens: Opens) => void
  /** Finds what the arrows go between. */
  focusable: () => string
}

/**
 * The Desk by keyboard, for panels without touch: arrows go between what can be
 * operated, Ctrl and arrows between screens. A function key presses the button
 * that has it, or else opens the place of the navigation with its number.
 */
export function useDeskKeys(desk: Desk) {
  const typing = (e: KeyboardEvent) =>
    desk.blocked() || !!(e.target as HTMLElement).closest?.('input, textarea')
  const isFunction = (e: KeyboardEvent) =>
    /^F([1-9]|1[0-2])$/.test(e.key) && !e.ctrlKey && !e.altKey && !e.shiftKey
  const tell = (key: string) => desk.screens().some((s) => s?.functionKey(key))

  function functionKey(e: KeyboardEvent) {
    const place = desk.places()[Number(e.key.slice(1)) - 1]
    if (e.repeat || tell(e.key)) return e.preventDefault()
    if (!place) return
    e.preventDefault()
    desk.go(place)
  }
  function screenBeside(by: number) {
    const all = desk.places()
    const next = all[(desk.here() + by + all.length) % all.length]
    if (next) desk.go(next)
  }
  function focusBeside(by: number) {
    const all = [...document.querySelectorAll<SVGGElement>(desk.focusable())]
    const at = all.indexOf(document.activeElement as unknown as SVGGElement)
    all[(at + by + all.length) % all.length]?.focus()
  }

  useEventListener('keydown', (e: KeyboardEvent) => {
    if (typing(e)) return
    if (e.key === 'Escape') return desk.closeWindow()
    if (isFunction(e)) return functionKey(e)
    const by =
      e.key === 'ArrowRight' || e.key === 'ArrowDown'
        ? 1
        : e.key === 'ArrowLeft' || e.key === 'ArrowUp'
          ? -1
          : 0
    if (!by) return
    e.preventDefault()
    if (e.ctrlKey) screenBeside(by)
    else focusBeside(by)
  })
}
