import { computed, shallowRef, watch, type Ref } from 'vue'
import type { Schemas } from '../api/client'
import type { Laid } from '../trend/useGhosts'
import type { Range } from '../trend/range'
import type { ViewPen } from '../trend/pens'
import type { LogShown } from './useLogs'

/** How many courses of a log are drawn before anybody chose some. */
const AT_FIRST = 6

/** The drawing of courses that spans are shown in. */
export interface Drawing {
  range: Range
  look: (stretch: Range) => void
  compare: (laid: Laid) => void
}

/** The courses of a log that are drawn: those of a span whole, others laid under it. */
export function useSpans(log: () => LogShown | undefined, drawing: Ref<Drawing | null>) {
  const chosen = shallowRef<ViewPen[]>()
  const shown = shallowRef<Schemas['LogSpan']>()
  const tags = () => log()?.tags ?? []
  watch(
    () => log()?.id,
    () => (chosen.value = shown.value = undefined),
  )
  const pens = computed<ViewPen[]>({
    get: () =>
      chosen.value ??
      tags()
        .slice(0, AT_FIRST)
        .map((tag) => ({ tag: tag.id })),
    set: (list) => (chosen.value = list),
  })
  const drawn = computed(() => new Set(pens.value.map((p) => p.tag)))
  function toggle(id: string) {
    pens.value = drawn.value.has(id) ? pens.value.filter((p) => p.tag !== id) : [...pens.value, { tag: id }]
  }
  /** Shows a span whole, with the courses of its own equipment. */
  function show(s: Schemas['LogSpan']) {
    const own = tags().filter((tag) => tag.path.startsWith(s.ofPath + '.'))
    if (s.ofPath && own.length) chosen.value = own.slice(0, AT_FIRST).map((tag) => ({ tag: tag.id }))
    shown.value = s
    drawing.value?.compare({ by: 0, name: '' })
    drawing.value?.look({ from: s.from, to: Math.max(s.to || Date.now(), s.from + 60_000) })
  }
  /** Lays a span under the one that is shown; of other equipment, the same members of it. */
  function compare(s: Schemas['LogSpan']) {
    const from = shown.value?.ofPath ?? ''
    const byPath = new Map(tags().map((tag) => [tag.path, tag.id]))
    const instead =
      s.ofPath && from && s.ofPath !== from
        ? new Map(
            tags().flatMap((tag) => {
              const other =
                tag.path.startsWith(from + '.') && byPath.get(s.ofPath + tag.path.slice(from.length))
              return other ? [[tag.id, other] as const] : []
            }),
          )
        : undefined
    const by = Math.round((drawing.value?.range.from ?? 0) - s.from) || 1
    drawing.value?.compare({ by, name: s.ofPath ? `${s.name} · ${s.ofPath}` : s.name, instead })
  }
  return { pens, drawn, shown, toggle, show, compare }
}
