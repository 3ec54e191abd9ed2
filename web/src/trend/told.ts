import { computed, type Ref } from 'vue'
import { num, str, type Props } from '../canvas/element'
import type { SceneElement } from '../live/live'
import type { Range } from './range'
import { windowOf } from './window'

/** The window that tags tell now; nothing while it cannot be told. */
export type Told = Readonly<Ref<Range | undefined>>

/** The window that an element's two tags tell; undefined where it names none. */
export function told(e: SceneElement, shown: Ref<Props>): Told | undefined {
  const given = { from: !!str(e.props.fromTag), to: !!str(e.props.toTag) }
  if (!given.from && !given.to) return undefined
  const length = num(e.props.minutes, 60) * 60_000
  return computed<Range | undefined>((old) => {
    const next = windowOf(given, { from: shown.value.fromAt, to: shown.value.toAt }, length)
    return old && next && old.from === next.from && old.to === next.to ? old : next
  })
}
