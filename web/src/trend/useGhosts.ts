import { computed, shallowRef, watch, type Ref } from 'vue'
import { api, ask } from '../api/client'
import { span } from '../kit/span'
import type { Line } from './pens'
import { useRange } from './range'

/** The course of a line some time before, as if it were of now. */
export interface Ghost extends Line {
  /** The tag whose course it is. */
  of: string
}

/** A line whose times are later by a shift. */
export function shifted(l: Line, by: number): Ghost {
  return {
    ...l,
    of: l.tag,
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

/** What was recorded of tags some time before the range that is looked at, to be laid under it. */
export function useGhosts(
  project: () => string,
  tags: Ref<string[]>,
  looked: ReturnType<typeof useRange>,
  earlier: Ref<number>,
  points: () => number,
) {
  const ghosts = shallowRef<Ghost[]>([])
  // While now is followed, a part of a hundredth is soon enough.
  const asked = computed(() => {
    const { from, to } = looked.range.value
    const step = looked.following.value ? Math.max(1000, (to - from) / 100) : 1
    const end = Math.ceil(to / step) * step
    return { by: earlier.value, from: end - (to - from) - step, to: end, tags: tags.value.join(',') }
  })
  watch(
    () => JSON.stringify(asked.value),
    async () => {
      const a = asked.value
      if (!a.by || !a.tags) return (ghosts.value = [])
      const query = {
        tags: a.tags,
        from: Math.round(a.from - a.by),
        to: Math.round(a.to - a.by),
        points: points(),
      }
      const got = await ask(
        api.GET('/api/projects/{project}/trend', { params: { path: { project: project() }, query } }),
      ).catch(() => undefined)
      if (a.by === earlier.value) ghosts.value = (got?.lines ?? []).map((l) => shifted(l, a.by))
    },
    { immediate: true },
  )
  return { ghosts }
}
