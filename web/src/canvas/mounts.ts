import { createApp, type App } from 'vue'
import { texts } from '../i18n'
import type { SceneElement } from '../live/live'
import type { Viewer } from './element'
import { vuetify } from '../vuetify'
import { shownIn } from './frame'
import { kindOf } from './registry'

/**
 * Brings elements to life that are pages, such as a list of alarms: what the
 * stage has drawn of them is a frame. What is no longer on the page is ended
 * with the next call.
 */
export function pageMounts(viewer: () => Viewer) {
  let apps: { app: App; host: Element }[] = []
  function sweep(all = false) {
    apps = apps.filter(({ app, host }) => {
      if (!all && host.isConnected) return true
      app.unmount()
      return false
    })
  }
  function mount(e: SceneElement, node: Element) {
    const host = node.querySelector<HTMLElement>('.embed')
    const { page, natural } = kindOf(e.kind)
    if (!host || !page) return
    if (natural) host.style.setProperty('zoom', 'var(--page-zoom, 1)')
    sweep()
    const app = createApp(...page(e, viewer(), shownIn(host)))
      .use(texts)
      .use(vuetify)
    app.mount(host)
    apps.push({ app, host })
  }
  return { mount, end: () => sweep(true) }
}
