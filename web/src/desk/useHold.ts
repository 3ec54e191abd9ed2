import { onScopeDispose, ref } from 'vue'
import type { Shown } from './useScene'
import { commandKey, live, type Opens } from '../live/live'

const RENEW = 150

/**
 * Hold-to-run: a lease that the page renews while the button is pressed. It is
 * let go when the pointer or key is released, the page loses focus or is
 * hidden, and ends at the server by itself when renewals stop.
 */
export function useHold(program: () => Shown, project: () => string, refuse: (why: string) => void) {
  const held = ref<string>()
  let lease = ''
  let timer = 0
  let wanted = false

  let show: (element: string, held: boolean) => void = () => {}

  /** Presses an element of a screen; shown marks it while it is held. */
  async function press(opens: Opens, element: string, shown: (element: string, held: boolean) => void) {
    if (held.value) return
    show = shown
    held.value = element
    wanted = true
    show(element, true)
    try {
      lease = await live.hold({ key: commandKey(), program: program(), project: project(), screen: opens.screen, args: opens.args, element, at: Math.round(live.serverNow()) }, (why) => {
        if (held.value === element) {
          refuse(why)
          stop()
        }
      })
    } catch (e) {
      if (held.value === element) stop()
      refuse(e instanceof Error ? e.message : String(e))
      return
    }
    if (!wanted) return letGo('released')
    timer = window.setInterval(() => live.say({ op: 'renew', project: project(), lease }), RENEW)
  }
  function stop() {
    clearInterval(timer)
    if (held.value) show(held.value, false)
    held.value = undefined
    wanted = false
    lease = ''
  }
  function letGo(reason: string) {
    wanted = false
    if (lease) live.say({ op: 'let-go', project: project(), lease, reason })
    if (lease || !held.value) stop()
    else if (held.value) {
      // The answer to the press is still on its way; it lets go when it comes.
      show(held.value, false)
      held.value = undefined
    }
  }
  const away = () => (held.value || lease) && letGo('the page lost its focus')
  window.addEventListener('blur', away)
  window.addEventListener('pagehide', away)
  document.addEventListener('visibilitychange', away)
  onScopeDispose(() => {
    away()
    window.removeEventListener('blur', away)
    window.removeEventListener('pagehide', away)
    document.removeEventListener('visibilitychange', away)
  })
  return { held, press, letGo }
}
