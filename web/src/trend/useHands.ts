import type { useRange } from './range'
import { zoomed } from './range'

/** How far a pointer moves before a press is a drag, in pixels. */
const STILL = 4

/**
 * The pointer and fingers on a drawing of time: the wheel zooms, with Shift it
 * moves; one that drags moves, two fingers zoom; one that stands still is a
 * press.
 */
export function useHands(
  looked: ReturnType<typeof useRange>,
  place: { timeAt: (x: number) => number; perPixel: () => number },
  press: (at: number, e: PointerEvent) => void,
) {
  const hands = new Map<number, number>() // where each was last
  let moved = false

  function wheel(e: WheelEvent) {
    if (e.shiftKey) looked.move((e.deltaY || e.deltaX) * place.perPixel(), false)
    else looked.look(zoomed(looked.range.value, place.timeAt(e.clientX), e.deltaY > 0 ? 1.25 : 0.8), false)
  }
  function down(e: PointerEvent) {
    if ((e.target as HTMLElement).closest('button')) return
    ;(e.currentTarget as HTMLElement).setPointerCapture(e.pointerId)
    hands.set(e.pointerId, e.clientX)
    moved = false
  }
  function move(e: PointerEvent) {
    const was = hands.get(e.pointerId)
    if (was === undefined || was === e.clientX || (!moved && Math.abs(e.clientX - was) < STILL)) return
    if (!moved) looked.look(looked.range.value) // where it was can be gone back to
    moved = true
    const other = [...hands].find(([id]) => id !== e.pointerId)?.[1]
    if (other === undefined) looked.move((was - e.clientX) * place.perPixel(), false)
    else {
      const factor = Math.abs(was - other) / Math.max(8, Math.abs(e.clientX - other))
      looked.look(zoomed(looked.range.value, place.timeAt(other), factor), false)
    }
    hands.set(e.pointerId, e.clientX)
  }
  function up(e: PointerEvent) {
    if (hands.delete(e.pointerId) && !moved && !hands.size) press(place.timeAt(e.clientX), e)
  }
  const cancel = (e: PointerEvent) => hands.delete(e.pointerId)
  return { wheel, down, move, up, cancel }
}
