import { useIntervalFn } from '@vueuse/core'
import { computed, onUnmounted, ref, shallowRef, watch, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type LinkStatus, type Schemas, sentence } from '../api/client'
import { useSession } from '../api/session'
import { speak as inLanguage } from '../i18n'
import { useSettings } from '../kit/settings'
import { live, type Opens } from '../live/live'
import { placesOf } from './places'
import { type Shown, useSilence } from './useScene'

/** What somebody signs in for; nobody where nothing shows until somebody does. */
export interface Signing {
  opens?: Opens
  roles?: string[]
  who?: string
  nobody?: true
}

/**
 * What the Desk has of a project: its screens and rights, how its links stand, and the
 * language of its screens, which is remembered at this panel. Signing says that somebody
 * is to sign in; it is set as the server knows nobody here any more.
 */
export function useDesk(
  project: Ref<string>,
  program: Ref<Shown>,
  signing: Ref<Signing | undefined>,
  say: (text: string, bad: boolean) => void,
) {
  const { t } = useI18n()
  const session = useSession()
  const settings = useSettings()
  const desk = shallowRef<Schemas['Desk']>()
  const links = shallowRef<LinkStatus[]>([])
  const chosen = ref(localStorage.getItem('rr-desk-language') ?? '')
  const silentSince = useSilence()

  async function load() {
    try {
      if (!session.me) await session.load()
      if (!session.me?.person || session.me.person.choose) {
        signing.value = { nobody: true }
        return
      }
      if (signing.value?.nobody) signing.value = undefined
      const params = {
        path: { project: project.value },
        query: { program: program.value, language: chosen.value },
      }
      desk.value = await ask(api.GET('/api/projects/{project}/desk', { params }))
    } catch (e) {
      say(sentence(e), true)
    }
  }
  /** Shows nothing any more, until somebody signs in. */
  function close() {
    desk.value = undefined
    signing.value = { nobody: true }
  }
  watch(project, load, { immediate: true })
  const ends = [
    live.news(project.value, (n) => (n.release || program.value === 'try') && load()),
    // What happened while the connection was away: a release, other rights.
    live.onOpen(() => session.me?.person && void load()),
  ]
  onUnmounted(() => ends.forEach((end) => end()))

  useIntervalFn(
    async () => {
      if (!session.me?.person) return
      const params = {
        path: { project: project.value },
        query: { program: program.value === 'try' ? 'draft' : 'release' } as const,
      }
      links.value = await ask(api.GET('/api/projects/{project}/links', { params })).catch(() => links.value)
    },
    1000,
    { immediateCallback: true },
  )
  const tried = computed(() => links.value.filter((l) => desk.value?.try?.live.includes(l.device)))
  /** Without word from the server the links are not known either. */
  const shownLinks = computed(() => {
    const used = program.value === 'try' ? tried.value : links.value
    return silentSince.value ? used.map((l) => ({ ...l, state: 'idle' as const })) : used
  })
  /** What of a draft that is tried works with devices. */
  const tryLine = computed(() =>
    desk.value?.try?.live.length
      ? t('try.live', { names: tried.value.map((l) => l.name).join(', ') })
      : t('try.standIns'),
  )

  /** The language that the screens speak. */
  const language = computed(() => chosen.value || desk.value?.languages[0] || '')
  function speak(code: string) {
    chosen.value = code === desk.value?.languages[0] ? '' : code
    localStorage.setItem('rr-desk-language', chosen.value)
    void load()
  }
  // What is around the screens speaks the screens' language, as far as it can.
  watch(language, (code) => code && void inLanguage(code === 'de' ? 'de' : 'en'), { immediate: true })
  onUnmounted(() => void inLanguage(settings.language))

  return {
    ...{ desk, load, close, links: shownLinks, tryLine, silentSince, language, chosen, speak },
    may: (right: string) => desk.value?.rights.includes(right) ?? false,
    /** The screen that all have in common, above or below. */
    common: (role: string) => desk.value?.screens.find((s) => s.role === role && !s.locked),
    /** The places of the navigation. */
    places: computed(() => placesOf(desk.value?.screens ?? []).filter((p) => !p.hidden)),
  }
}
export type Desk = ReturnType<typeof useDesk>
