import { useIdle, useIntervalFn, useTitle, useWakeLock } from '@vueuse/core'
import { nextTick, onScopeDispose, watch } from 'vue'
import { useSession } from '../api/session'
import { live } from '../live/live'
import { unsaved } from '../recipes/benches'
import { mayGo } from './renewal'

/**
 * What a page does that stands at a panel: the screen stays awake, its title is the
 * panel's name, and the pages of a server that was renewed are loaded once nobody is in
 * the middle of something.
 */
export function usePanelPage(acting: () => boolean) {
  const session = useSession()
  const panel = () => session.me?.panel ?? ''
  useTitle(() => panel() || 'Ready Rail')

  const awake = useWakeLock()
  watch(
    panel,
    // A browser that refuses it, as one on its last battery, goes on without.
    (name) => void (name ? awake.request('screen') : awake.release()).catch(() => {}),
    { immediate: true },
  )

  const { lastActive } = useIdle()
  let loaded = ''
  let served = ''
  const stop = watch(
    () => session.me?.build,
    (build) => {
      if (!build) return
      loaded = build
      void nextTick(() => stop())
    },
    { immediate: true },
  )
  // The server that answers again may be another one.
  onScopeDispose(live.onOpen(() => void session.serves().then((build) => (served = build))))
  useIntervalFn(() => {
    const field = document.activeElement?.matches('input, textarea, select, [contenteditable]') ?? false
    const doing = {
      entering: field || !!document.querySelector('dialog[open]'),
      acting: acting(),
      unsaved: unsaved(),
      untouched: Date.now() - lastActive.value,
    }
    if (mayGo(loaded, served, doing)) location.reload()
  }, 5000)
}
