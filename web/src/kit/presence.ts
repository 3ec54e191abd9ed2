import { useEventListener, useIntervalFn } from '@vueuse/core'
import { computed, onScopeDispose, ref } from 'vue'

/** How long before its end a rest is warned of. */
const WARN_MS = 30_000
/** How often at most the server is told that somebody is there. */
const TELL_MS = 10_000
/** How often where nothing ends of rest: that may be set meanwhile. */
const RARELY_MS = 60_000

/**
 * Whether somebody is at this page: a touch, a key or the wheel, and what is held down. Where
 * nobody was for as long as `rest` says, in ms, 0 for ever, over is told, and again every few
 * seconds; there is told of a touch. Where rest is undefined nobody is asked for.
 */
export function usePresence(rest: () => number | undefined, there: () => void, over: () => void) {
  const last = ref(Date.now())
  const now = ref(Date.now())
  const down = new Set<number>()
  let told = 0
  let ended = 0
  function touched() {
    last.value = now.value = Date.now()
    const of = rest()
    if (of === undefined || last.value - told < (of ? Math.min(TELL_MS, of / 4) : RARELY_MS)) return
    told = last.value
    there()
  }
  const options = { capture: true, passive: true }
  useEventListener(window, ['keydown', 'wheel'], touched, options)
  useEventListener(
    window,
    'pointerdown',
    (e: PointerEvent) => {
      down.add(e.pointerId)
      touched()
    },
    options,
  )
  const up = (e: PointerEvent) => {
    down.delete(e.pointerId)
    touched()
  }
  useEventListener(window, ['pointerup', 'pointercancel'], up, options)
  const { pause } = useIntervalFn(() => {
    now.value = Date.now()
    if (down.size) touched()
    if (!rest() || left.value > 0 || now.value - ended < TELL_MS / 2) return
    ended = now.value
    over()
  }, 1000)
  onScopeDispose(pause)
  /** Seconds that are left. */
  const left = computed(() => Math.max(0, Math.ceil((last.value + (rest() ?? 0) - now.value) / 1000)))
  const warns = computed(() => !!rest() && left.value * 1000 <= Math.min(WARN_MS, rest()! / 2))
  return { left, warns, touched }
}
