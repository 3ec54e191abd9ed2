import { onScopeDispose, shallowReactive, watch, type Ref } from 'vue'
import type { Schemas } from '../api/client'
import { live, quality } from './live'

/** A tag's present value as lists show it. */
export interface TagValue {
  text: string | null
  level: Schemas['QualityInfo']['level']
  reason: string
  raw: string | null
  at: number
  number: number | null
}

/** Follows the values of the tags whose ids the ref holds, by id. */
export function useTagValues(
  project: Ref<string>,
  ids: Ref<string[]>,
  program: 'draft' | 'release' = 'draft',
) {
  const values = shallowReactive(new Map<string, TagValue>())
  let close: (() => void) | undefined
  const stop = watch(
    [project, () => ids.value.join(' ')],
    () => {
      close?.()
      const tags = [...ids.value]
      if (!project.value || tags.length === 0) {
        close = undefined
        return
      }
      close = live.open({ op: 'tags', project: project.value, program, tags }, (f) => {
        for (const [i, text, q, raw, at, number] of f.v ?? []) {
          const { level, reason } = quality(q)
          values.set(tags[i]!, {
            text: text as string | null,
            level,
            reason,
            raw: raw as string | null,
            at: at as number,
            number: number as number | null,
          })
        }
      })
    },
    { immediate: true },
  )
  onScopeDispose(() => {
    stop()
    close?.()
  })
  return values
}
