import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Device, type Finding, type LinkStatus, type Schemas } from '../api/client'
import { useNotice } from '../kit/problem'
import { live, type News } from '../live/live'
import { useCatalogue } from './catalogue'
import { useEdits } from './edits'
import { over } from './pending'
import { useVersions } from './versions'

/** A server that has not answered in this time is said not to. */
const ANSWER_MS = 2500

/** The project that is open in the Workshop. */
export const useProject = defineStore('project', () => {
  const id = ref('')
  const told = shallowRef<Schemas['Overview']>()
  const path = computed(() => ({ project: id.value }))
  const { pending, edit, step } = useEdits(path)
  const catalogue = useCatalogue()
  /** A document with what was just edited and may not be in it yet. */
  const latest = <T>(kind: string, id: string, doc: T, row = false): T =>
    over(doc, kind, id, pending.ops(), row)
  const overview = computed(
    () => told.value && { ...told.value, site: latest('site', 'site', told.value.site) },
  )
  const findings = shallowRef<Finding[]>([])
  const links = shallowRef<LinkStatus[]>([])
  /** The server answers: what is shown of it is of now. */
  const reached = ref(true)
  const toldDevices = shallowRef<Device[]>([])
  const devices = computed(() => toldDevices.value.map((d) => latest('device', d.id, d)))
  const screens = shallowRef<Schemas['ScreenInfo'][]>([])
  /** Counts up whenever the draft changed, whoever did it; versionOf tells of a part of it. */
  const version = ref(0)
  const versions = useVersions()
  const notice = useNotice()
  const { locale } = useI18n({ useScope: 'global' })
  const listeners = new Set<(n: News) => void>()
  let close: (() => void) | undefined
  let timer = 0

  const deviceName = (deviceId: string | undefined) =>
    devices.value.find((d) => d.id === deviceId)?.name ?? ''

  const types = shallowRef<Schemas['TypeInfo'][]>([])
  const toldLooks = shallowRef<Schemas['LookSet'][]>([])
  const looks = computed(() => toldLooks.value.map((l) => latest('look', l.id, l)))
  const styles = shallowRef<Schemas['TextStyle'][]>([])

  async function open(project: string) {
    if (id.value === project) return
    leave()
    id.value = project
    await catalogue.load()
    await refresh()
    close = live.news(project, (n) => {
      if (n.project !== id.value) return
      // What lies over the draft changes no thing of it.
      if (
        !n.things?.length ||
        n.things.some((x) => !/^(turn|override|try|loop|alarms|handover|control)\//.test(x))
      ) {
        versions.hear(n)
        renew(false).catch(notice.refuse)
      }
      listeners.forEach((l) => l(n))
    })
    const poll = async () => {
      if (!id.value) return
      const params = { path: path.value, query: { program: 'draft' as const } }
      const signal = AbortSignal.timeout(ANSWER_MS)
      const told = await ask(api.GET('/api/projects/{project}/links', { params, signal })).catch(
        () => undefined,
      )
      const again = !reached.value && !!told
      reached.value = !!told
      if (told) links.value = told
      // What changed while nothing was heard is not told later.
      if (again) await refresh().catch(notice.refuse)
    }
    await poll()
    timer = window.setInterval(poll, 1000)
  }

  function leave() {
    close?.()
    clearInterval(timer)
    id.value = ''
    pending.forget()
    check = ''
  }

  let check = ''
  let asked = 0
  let answered = 0
  /** Asks for everything anew. */
  const refresh = () => renew(true)
  async function renew(everything: boolean) {
    const of = id.value
    const mine = ++asked
    const w = await ask(
      api.GET('/api/projects/{project}/workshop', {
        params: { path: path.value, query: { language: locale.value, check } },
      }),
    )
    // An answer that comes behind a later one is of an older draft.
    if (of !== id.value || mine < answered) return
    answered = mine
    told.value = w.overview
    // Left out where they are those that are known already.
    if (w.findings || w.check !== check) findings.value = w.findings ?? []
    check = w.check
    toldDevices.value = w.devices
    screens.value = w.screens
    types.value = w.types
    toldLooks.value = w.looks
    styles.value = w.styles
    pending.saw(w.overview.revision)
    version.value++
    versions.settle(everything)
  }

  /** Calls back with news until the function it returns is called. */
  function onNews(listener: (n: News) => void) {
    listeners.add(listener)
    return () => listeners.delete(listener)
  }

  return {
    id,
    path,
    overview,
    findings,
    links,
    reached,
    devices,
    screens,
    types,
    looks,
    styles,
    version,
    versionOf: versions.versionOf,
    deviceName,
    open,
    leave,
    refresh,
    edit,
    step,
    onNews,
    latest,
  }
})

/** A fresh id for a thing that an edit makes. */
export function freshId(kind: string): string {
  const b = crypto.getRandomValues(new Uint8Array(9))
  return kind[0] + Array.from(b, (x) => (x % 36).toString(36)).join('')
}
