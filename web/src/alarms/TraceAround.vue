<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import { clock, moment } from '../kit/moment'
import { coursePath, courseRange } from './course'

/** The recorded course of an alarm's signal around the moment at which it came. */
const props = defineProps<{ project: string; tag: string; at: number; limit?: string }>()
const AROUND = 10 * 60_000
const W = 288
const H = 96
const points = shallowRef<Schemas['CoursePoint'][]>()
const from = computed(() => props.at - AROUND)
const to = computed(() => Math.min(props.at + AROUND, Math.max(Date.now(), props.at + 1000)))
watch(
  () => [props.tag, props.at],
  async () => {
    points.value = await ask(
      api.GET('/api/projects/{project}/points/{id}/course', {
        params: {
          path: { project: props.project, id: props.tag },
          query: { from: from.value, to: to.value },
        },
      }),
    ).catch(() => undefined)
  },
  { immediate: true },
)

const bound = computed(() => {
  const n = Number((props.limit ?? '').replace(',', '.').split(' ')[0])
  return props.limit && Number.isFinite(n) ? n : undefined
})
const range = computed(() => courseRange(points.value ?? [], bound.value, 0.1))
const x = (at: number) => ((at - from.value) / (to.value - from.value)) * W
const y = (v: number) => H - ((v - range.value.low) / (range.value.high - range.value.low)) * H
const path = computed(() => coursePath(points.value ?? [], x, y, W))
</script>

<template>
  <!-- Its room is there before it is: what stands below does not move away from under a finger. -->
  <figure>
    <svg :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="$t('alarm.around')">
      <line v-if="bound !== undefined" class="limit" x1="0" :x2="W" :y1="y(bound)" :y2="y(bound)" />
      <text v-if="points && !points.length" class="none" :x="W / 2" :y="H / 2">
        {{ $t('alarm.noTrace') }}
      </text>
      <line class="came" :x1="x(at)" :x2="x(at)" y1="0" :y2="H" />
      <path :d="path" />
    </svg>
    <figcaption>
      <span>{{ moment(from, clock) }}</span>
      <span>{{ moment(to, clock) }}</span>
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 8px 0;
}
svg {
  width: 100%;
  display: block;
  background: var(--c-paper);
  border: 1px solid var(--c-line);
}
path {
  fill: none;
  stroke: var(--c-ink);
  stroke-width: 1.5;
}
.limit {
  stroke: var(--c-high);
  stroke-width: 1.5;
}
.none {
  text-anchor: middle;
  font-size: 13px;
  fill: var(--c-quiet);
}
.came {
  stroke: var(--c-quiet);
  stroke-dasharray: 3 3;
}
figcaption {
  display: flex;
  justify-content: space-between;
  font-size: 12px;
  color: var(--c-quiet);
}
</style>
