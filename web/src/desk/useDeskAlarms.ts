import { ref, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { type Act, type Standing, useAlarms } from '../alarms/useAlarms'
import { shows, useWorst, type Place } from '../alarms/useWorst'
import { sentence } from '../api/client'
import type { Opens } from '../live/live'
import type { Shown } from './useScene'

/** For how long what shows an alarm is ringed after its screen was opened for it. */
const RING_MS = 10_000

/** The alarms of a Desk: how they stand, what is done to them, and the way to the screen of one. */
export function useDeskAlarms(
  project: Ref<string>,
  program: () => Shown,
  language: () => string,
  places: () => Place[],
  go: (opens: Opens) => Promise<void>,
  refuse: (text: string) => void,
) {
  const { t } = useI18n()
  const { board, unsure, problem, act } = useAlarms(project, program, false, language)
  const { worstOfTags, worstOfPlace } = useWorst(board)
  const listed = ref(false)
  const ringed = ref('')
  let ends = 0

  async function actOn(ids: string[], what: Act, comment = false) {
    try {
      const did = await act(ids, what, comment)
      if (did && !did.recorded) refuse(t('alarm.notRecorded'))
    } catch (e) {
      refuse(sentence(e))
    }
  }
  /** Opens the screen where an alarm stands: at the place of the navigation that shows its equipment. */
  async function openFor(a: Standing) {
    listed.value = false
    const its = places().filter((n) => n.id === a.screen)
    await go((its.find((n) => shows(n, a)) ?? its[0])?.opens ?? { screen: a.screen })
    ringed.value = a.tag
    clearTimeout(ends)
    ends = window.setTimeout(() => (ringed.value = ''), RING_MS)
  }
  return { board, unsure, problem, listed, ringed, worstOfTags, worstOfPlace, actOn, openFor }
}
