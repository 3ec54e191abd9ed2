import { computed, shallowRef, watch, type Ref } from 'vue'
import { api, ask } from '../api/client'
import { span } from '../kit/span'
import type { Line } from './pens'
import { useRange } from './range'
import type { Source } from './source'

/** The course of a line some time before, as if it were of now. */
export interface Ghost extends Line {
  /** The tag whose course it is. */
  of: string
}

/** A line whose times are later by a shift, under the line of a tag. */
export function shifted(l: Line, by: number, of = l.tag): Ghost {
  return {
    ...l,
    of,
    tag: `${l.tag} −${by}`,
    path: `${l.path} −${span(by / 1000)}`,
    limits: [],
    pen: l.pen && { ...l.pen, at: l.pen.at.map((t) => t + by) },
    row: l.row && {
      ...l.row,
      stretches: l.row.stretches.map((s) => ({ ...s, from: s.from + by, to: s.to + by })),
    },
  }
}

/** What is laid under what is shown. */
export interface Laid {
  /** How much earlier it was, in milliseconds; 0 for nothing. */
  by: number
  /** What it is called; empty for a time before. */
  name: string
  /** The tags in whose place others are laid, as of another chamber; themselves where it is not given. */
  instead?: Map<string, string>
}

/** What was recorded of tags at another time than the range that is looked at, to be laid under it. */
export function useGhosts(
  source: () => Source,
  tags: Ref<string[]>,
  looked: ReturnType<typeof useRange>,
  laid: Ref<Laid>,
  points: () => number,
) {
  const ghosts = shallowRef<Ghost[]>([])
  // While now is followed, a part of a hundredth is soon enough.
  const asked = computed(() => {
    const { from, to } = looked.range.value
    const step = looked.following.value ? Math.max(1000, (to - from) / 100) : 1
    const end = Math.ceil(to / step) * step
    const { by, instead } = laid.value
    const pairs = tags.value.flatMap((tag) => {
      const other = instead ? instead.get(tag) : tag
      return other ? [[other, tag] as const] : []
    })
    return { by, from: end - (to - from) - step, to: end, pairs }
  })
  watch(
    () => JSON.stringify(asked.value),
    async () => {
      const a = asked.value
      if (!a.by || !a.pairs.length) return (ghosts.value = [])
      const query = {
        tags: a.pairs.map(([other]) => other).join(','),
        from: Math.round(a.from - a.by),
        to: Math.round(a.to - a.by),
        points: points(),
        log: source().log,
      }
      const got = await ask(
        api.GET('/api/projects/{project}/trend', { params: { path: { project: source().project }, query } }),
      ).catch(() => undefined)
      if (a.by !== laid.value.by) return
      const of = new Map(a.pairs)
      ghosts.value = (got?.lines ?? []).map((l) => shifted(l, a.by, of.get(l.tag)))
    },
    { immediate: true },
  )
  return { ghosts }
}
