import { useIntervalFn } from '@vueuse/core'
import { onBeforeUnmount, shallowRef, watch, type Ref } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import type { useRange } from './range'
import type { Source } from './source'

const EVERY = 1000
/** A question is given up after this: the link may have gone under it. */
const PATIENCE = 10_000

/** What was recorded of tags in the range that is looked at; while it follows now, anew each second. */
export function useTrend(
  source: () => Source,
  tags: Ref<string[]>,
  looked: ReturnType<typeof useRange>,
  points: () => number,
) {
  const trend = shallowRef<Schemas['Trend']>()
  const problem = shallowRef<unknown>()
  let asking: AbortController | undefined

  async function load() {
    asking?.abort()
    const mine = (asking = new AbortController())
    const signal = AbortSignal.any([mine.signal, AbortSignal.timeout(PATIENCE)])
    const { from, to } = looked.range.value
    try {
      const got = await ask(
        api.GET('/api/projects/{project}/trend', {
          params: {
            path: { project: source().project },
            query: {
              tags: tags.value.join(','),
              from: Math.round(from),
              to: Math.round(to),
              points: points(),
              log: source().log,
            },
          },
          signal,
        }),
      )
      if (asking !== mine) return
      trend.value = got
      problem.value = undefined
    } catch (e) {
      if (asking === mine && !mine.signal.aborted) problem.value = e
    }
    if (asking === mine) asking = undefined
  }
  watch([source, tags], load, { immediate: true })
  watch(looked.range, () => looked.following.value || load())
  const clock = useIntervalFn(() => {
    if (!looked.following.value || document.hidden) return
    looked.tick()
    // A question that takes longer than a second is not asked again before its answer.
    if (!asking) void load()
  }, EVERY)
  onBeforeUnmount(() => {
    clock.pause()
    asking?.abort()
  })
  return { trend, problem, load }
}
