import { useEventListener } from '@vueuse/core'
import { onUnmounted, ref, watch, type Ref } from 'vue'
import { type Board, PRIORITIES, unseen } from './useAlarms'

// Tones of our own, per priority: pitch in hertz, and when each of a bar's
// strokes begins, in seconds.
const TONES: Record<string, { pitch: number[]; strokes: number[]; every: number }> = {
  critical: { pitch: [880, 660], strokes: [0, 0.14, 0.28, 0.42], every: 1.2 },
  high: { pitch: [740], strokes: [0, 0.18, 0.36], every: 2 },
  medium: { pitch: [587], strokes: [0, 0.22], every: 4 },
  low: { pitch: [494], strokes: [0], every: 8 },
}

/**
 * Sounds as long as an alarm came that nobody has acknowledged, the most urgent
 * one's tone. Silence holds until the next one comes.
 */
export function useAlarmSound(board: Ref<Board | undefined>, on: Ref<boolean>) {
  const sounding = ref('')
  /** Whether the browser lets nothing sound until the person touches the page. */
  const mute = ref(false)
  let heard = new Set<string>()
  let context: AudioContext | undefined
  let timer = 0

  function bar() {
    const tone = TONES[sounding.value]
    if (!tone) return
    if (ready()) strike(tone)
    timer = window.setTimeout(bar, tone.every * 1000)
  }
  function strike(tone: (typeof TONES)[string]) {
    tone.strokes.forEach((s, i) => {
      const o = context!.createOscillator()
      const g = context!.createGain()
      const at = context!.currentTime + s
      o.frequency.value = tone.pitch[i % tone.pitch.length]!
      g.gain.setValueAtTime(0.0001, at)
      g.gain.exponentialRampToValueAtTime(0.25, at + 0.015)
      g.gain.exponentialRampToValueAtTime(0.0001, at + 0.12)
      o.connect(g).connect(context!.destination)
      o.start(at)
      o.stop(at + 0.13)
    })
  }
  /** A browser lets nothing sound before the person has touched the page; that is said. */
  function ready(): boolean {
    if (!context) {
      context = new AudioContext()
      context.onstatechange = () => (mute.value = context?.state !== 'running')
    }
    // Closed before it sounds: whoever is to hear it is gone.
    if (context.state !== 'running') context.resume().catch(() => {})
    mute.value = context.state !== 'running'
    return !mute.value
  }
  /** A touch lets the tones sound: those that are due begin at once, and one short stroke says that they can be heard. */
  function touched() {
    const was = mute.value
    ready()
    if (!was) return
    const begin = () => {
      strike(TONES.low!)
      if (sounding.value) {
        clearTimeout(timer)
        bar()
      }
    }
    context!.resume().then(begin, () => {})
  }
  useEventListener(window, ['pointerdown', 'keydown'], () => mute.value && touched(), { capture: true })
  // Whoever signs in hears that tones can be heard.
  watch(on, (now) => now && ready() && strike(TONES.low!), { immediate: true })
  const key = (a: { id: string; raised?: string }) => a.id + a.raised
  watch([board, on], ([b]) => {
    const waiting = (b?.alarms ?? []).filter(unseen)
    const fresh = waiting.filter((a) => !heard.has(key(a)))
    heard = new Set(waiting.map(key))
    const worst = PRIORITIES.find((p) => (fresh.length ? fresh : []).some((a) => a.priority === p))
    if (!waiting.length || !on.value) silence()
    else if (
      worst &&
      (!sounding.value || PRIORITIES.indexOf(worst) <= PRIORITIES.indexOf(sounding.value as 'low'))
    ) {
      sounding.value = worst
      clearTimeout(timer)
      bar()
    }
  })
  function silence() {
    sounding.value = ''
    clearTimeout(timer)
  }
  onUnmounted(() => {
    silence()
    void context?.close()
  })
  return { sounding, mute, silence }
}
