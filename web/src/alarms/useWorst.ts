import { computed, type Ref } from 'vue'
import type { AlarmMark } from '../canvas/flag'
import type { Opens } from '../live/live'
import { annunciated, type Board, type Standing, unseen } from './useAlarms'

/** A place of the navigation. */
export interface Place {
  id: string
  name: string
  area?: string
  opens: Opens
}

/** Whether a place shows the equipment of an alarm. */
export const shows = (place: Place, a: Standing): boolean =>
  !!a.of && Object.values(place.opens.args ?? {}).includes(a.of)

/** The worst alarm of each tag, for its elements, and of each place of the navigation, for its button. */
export function useWorst(board: Ref<Board | undefined>) {
  // The board is in the order of priority: the first of each is its worst.
  const standing = computed(() => (board.value?.alarms ?? []).filter(annunciated))
  const worstOfTags = computed(() => {
    const out = new Map<string, AlarmMark>()
    for (const a of standing.value)
      if (a.tag && !out.has(a.tag))
        out.set(a.tag, {
          priority: a.priority as AlarmMark['priority'],
          unseen: unseen(a),
          returned: a.state === 'returned' || a.state === 'latched-unack',
        })
    return out
  })
  /** An alarm belongs to the place that shows its equipment; or to the one where its screen opens; or, without a screen, to its area. */
  function worstOfPlace(place: Place, all: Place[]): Standing | undefined {
    const several = all.filter((p) => p.id === place.id).length > 1
    return standing.value.find(
      (a) =>
        shows(place, a) ||
        (a.screen ? a.screen === place.id && !several : !!place.area && a.area === place.area),
    )
  }
  return { worstOfTags, worstOfPlace }
}
