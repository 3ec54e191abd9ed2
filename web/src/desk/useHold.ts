import { onScopeDispose, ref } from 'vue'
import { commandKey, live } from '../live/live'

const RENEW = 150

/**
 * Hold-to-run: a lease that the page renews while the button is pressed. It is
 * let go when the pointer or key is released, the page loses focus or is
 * hidden, and ends at the server by itself when renewals stop.
 */
export function useHold(program: () => 'release' | 'try', project: () => string, screen: () => string, show: (element: string, held: boolean) => void, refuse: (why: string) => void) {
  const held = ref<string>()
  let lease = ''
  let timer = 0
  let wanted = false

  async function press(element: string) {
    if (held.value) return
    held.value = element
    wanted = true
    show(element, true)
    try {
      lease = await live.hold({ key: commandKey(), program: program(), project: project(), screen: screen(), element, at: Math.round(live.serverNow()) }, (why) => {
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
