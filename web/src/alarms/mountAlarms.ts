import { createApp, type App, type Component } from 'vue'
import { str } from '../canvas/element'
import { i18n } from '../i18n'
import type { SceneElement } from '../live/live'
import AlarmKey from './AlarmKey.vue'
import AlarmTable from './AlarmTable.vue'
import JournalList from './JournalList.vue'
import OccurrenceList from './OccurrenceList.vue'
import { PRIORITIES } from './useAlarms'

/**
 * Brings the lists of alarms on a screen to life: what the stage has drawn of
 * them is a frame. What is no longer on the page is ended with the next call.
 */
export function alarmMounts(
  project: () => string,
  program: () => 'release' | 'try' | 'draft',
  language: () => string = () => '',
) {
  let apps: { app: App; host: Element }[] = []
  function sweep(all = false) {
    apps = apps.filter(({ app, host }) => {
      if (!all && host.isConnected) return true
      app.unmount()
      return false
    })
  }
  function mount(e: SceneElement, node: Element) {
    const host = node.querySelector('.embed')
    if (!host) return
    sweep()
    let what: Component = AlarmKey
    let props: Record<string, unknown> = {}
    const p = e.props as Record<string, unknown>
    if (e.kind === 'alarmlist' && p.list === 'journal')
      [what, props] = [JournalList, { project: project(), style: 'height: 100%; background: var(--c-sheet)' }]
    else if (e.kind === 'alarmlist' && p.list === 'occurrences')
      [what, props] = [
        OccurrenceList,
        {
          project: project(),
          columns: str(p.columns),
          query: occurrencesOf(p),
          style: 'height: 100%; background: var(--c-sheet)',
        },
      ]
    else if (e.kind === 'alarmlist')
      [what, props] = [
        AlarmTable,
        {
          project: project(),
          program: program(),
          language: language(),
          list: str(p.list),
          columns: str(p.columns),
          order: str(p.order),
          worst: str(p.worst),
          area: str(p.area),
          group: str(p.group),
          contains: str(p.contains),
          stamp: str(p.stamp),
          buttons: !!p.buttons,
        },
      ]
    const app = createApp(what, props).use(i18n)
    app.mount(host)
    apps.push({ app, host })
  }
  return { mount, end: () => sweep(true) }
}

/** What a list by occurrence asks of the journal. */
function occurrencesOf(p: Record<string, unknown>): Record<string, unknown> {
  const worst = PRIORITIES.indexOf(str(p.worst) as 'low')
  return {
    priority:
      worst >= 0 && worst < PRIORITIES.length - 1
        ? PRIORITIES.map((_, i) => i).slice(0, worst + 1)
        : undefined,
    area: str(p.area) ? [str(p.area)] : undefined,
    text: str(p.contains) || undefined,
  }
}
