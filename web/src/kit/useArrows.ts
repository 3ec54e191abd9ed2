import { useEventListener } from '@vueuse/core'
import type { Ref } from 'vue'

// Arrow keys between what can be pressed or filled in, for panels without touch and
// without a Tab key: to what stands nearest in the arrow's direction.

const STOPS = 'button, a[href], input, select, textarea, [tabindex="0"]'
const AHEAD = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowDown: [0, 1], ArrowUp: [0, -1] } as const
/** What lies aside counts for more than what lies ahead: a column is gone down before it is left. */
const ASIDE = 3
const STRAIGHT = 0.1

type Key = keyof typeof AHEAD
interface Box {
  x: number
  y: number
  w: number
  h: number
}

/** The place of the box that an arrow goes to from one; -1 for none. */
export function beside(from: Box, all: Box[], key: Key): number {
  const [dx, dy] = AHEAD[key]
  let best = -1
  let least = Infinity
  const middle = (b: Box) => [b.x + b.w / 2, b.y + b.h / 2] as const
  const [x, y] = middle(from)
  all.forEach((b, i) => {
    const [bx, by] = middle(b)
    const ahead = (bx - x) * dx + (by - y) * dy
    // What overlaps across the direction is straight ahead.
    const overlaps = dx
      ? b.y < from.y + from.h && from.y < b.y + b.h
      : b.x < from.x + from.w && from.x < b.x + b.w
    const aside = Math.abs((bx - x) * dy) + Math.abs((by - y) * dx)
    const far = ahead + aside * (overlaps ? STRAIGHT : ASIDE)
    if (ahead <= 1 || far >= least) return
    least = far
    best = i
  })
  return best
}

/** Whether a field needs an arrow for itself: a caret that has where to go, or one of several choices. */
function keeps(at: Element, key: Key): boolean {
  const sideways = key === 'ArrowLeft' || key === 'ArrowRight'
  if (at instanceof HTMLInputElement && at.type === 'radio') {
    const group = [...document.querySelectorAll<HTMLInputElement>(`input[type=radio][name="${at.name}"]`)]
    return at !== (key === 'ArrowDown' || key === 'ArrowRight' ? group.at(-1) : group[0])
  }
  if (at instanceof HTMLTextAreaElement || (at instanceof HTMLInputElement && at.type !== 'checkbox')) {
    if (at instanceof HTMLInputElement && !sideways) return false
    const end = key === 'ArrowRight' || key === 'ArrowDown' ? at.value.length : 0
    return at.selectionStart !== end || at.selectionEnd !== end
  }
  return false
}

/** Has arrows go between the stops of an element; Enter opens a list that it stands on. */
export function useArrows(root: Ref<HTMLElement | undefined>, moved: () => void = () => {}) {
  useEventListener(root, 'keydown', (e: KeyboardEvent) => {
    const at = document.activeElement
    if (!at || !root.value?.contains(at) || e.ctrlKey || e.altKey || e.metaKey || e.shiftKey) return
    if (e.key === 'Enter' && at instanceof HTMLSelectElement) {
      e.preventDefault()
      at.showPicker()
    }
    if (!(e.key in AHEAD) || keeps(at, e.key as Key)) return
    const stops = [...root.value.querySelectorAll<HTMLElement>(STOPS)].filter(
      (s) => s !== at && !(s as HTMLButtonElement).disabled && s.checkVisibility(),
    )
    const box = (s: Element): Box => {
      const r = s.getBoundingClientRect()
      return { x: r.x, y: r.y, w: r.width, h: r.height }
    }
    const to = stops[beside(box(at), stops.map(box), e.key as Key)]
    e.preventDefault()
    e.stopPropagation()
    if (!to) return
    to.focus()
    moved()
  })
}
