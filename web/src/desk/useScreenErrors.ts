import { onErrorCaptured, onMounted, onUnmounted } from 'vue'
import { api, ask } from '../api/client'

/** Tells the journal what goes wrong in this browser, each error once. */
export function useScreenErrors(project: () => string, screen: () => string) {
  const told = new Set<string>()
  function tell(what: unknown) {
    const text = String((what as Error)?.message ?? what).slice(0, 500)
    // What the browser says when it lays out more than once is no error.
    if (!text || told.has(text) || text.startsWith('ResizeObserver')) return
    told.add(text)
    void ask(
      api.POST('/api/projects/{project}/screen-errors', {
        params: { path: { project: project() } },
        body: { screen: screen(), text },
      }),
    ).catch(() => {})
  }
  const onError = (e: ErrorEvent) => tell(e.error ?? e.message)
  onMounted(() => addEventListener('error', onError))
  onUnmounted(() => removeEventListener('error', onError))
  onErrorCaptured((e) => tell(e))
}
