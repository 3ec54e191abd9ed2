import { onScopeDispose, ref } from 'vue'
import { api, ask, sentence } from '../api/client'

// Visits to the provider of the company's directory, which leave our pages and come back.

const NEXT = 'rr-visit-next'

/** Leaves for the provider to sign in; the page that is open now is returned to. */
export function visitToSignIn() {
  sessionStorage.setItem(NEXT, location.pathname + location.search)
  location.assign('/api/directory/visit')
}

/** Where somebody was as they left to sign in, once; empty where nobody left. */
export function cameBackTo(): string {
  const next = sessionStorage.getItem(NEXT) ?? ''
  sessionStorage.removeItem(NEXT)
  return next.startsWith('/') && !next.startsWith('//') ? next : ''
}

const ASK_EVERY_MS = 1000
const PATIENCE_MS = 10 * 60 * 1000

/** A visit for a signature: in a window of its own, and asked here what came of it. */
export function useVisit() {
  const waiting = ref(false)
  const refused = ref('')
  let timer: ReturnType<typeof setInterval> | undefined
  let ends: () => void = () => {}
  function stop() {
    clearInterval(timer)
    waiting.value = false
    ends()
  }
  onScopeDispose(stop)

  /** Opens the provider; resolves to who signed there with the ticket that proves it. */
  function begin(blocked: string) {
    stop()
    refused.value = ''
    const ticket = [...crypto.getRandomValues(new Uint8Array(16))]
      .map((b) => b.toString(16).padStart(2, '0'))
      .join('')
    const opened = window.open(
      `/api/directory/visit?ticket=${ticket}`,
      '_blank',
      'popup,width=520,height=640',
    )
    if (!opened) {
      refused.value = blocked
      return Promise.resolve(undefined)
    }
    waiting.value = true
    const since = Date.now()
    return new Promise<{ name: string; fullName: string; ticket: string } | undefined>((resolve) => {
      ends = () => resolve(undefined)
      timer = setInterval(async () => {
        try {
          const told = await ask(api.GET('/api/directory/outcome', { params: { query: { ticket } } }))
          if (told.refused) refused.value = told.refused
          if (told.name) resolve({ name: told.name, fullName: told.fullName ?? told.name, ticket })
          if (told.refused || told.name || Date.now() - since > PATIENCE_MS) stop()
        } catch (e) {
          refused.value = sentence(e)
          stop()
        }
      }, ASK_EVERY_MS)
    })
  }
  return { waiting, refused, begin, stop }
}
