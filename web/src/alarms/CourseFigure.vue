<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { clock, moment } from '../kit/moment'
import { coursePath, courseRange } from './course'

/** The recorded course of a signal between two moments, with a limit and a moment of its own where there are some. */
const props = defineProps<{
  points: Schemas['CoursePoint'][] | undefined
  from: number
  to: number
  label: string
  bound?: number
  came?: number
}>()
const W = 288
const H = 96
const range = computed(() => courseRange(props.points ?? [], props.bound, 0.1))
const x = (at: number) => ((at - props.from) / (props.to - props.from)) * W
const y = (v: number) => H - ((v - range.value.low) / (range.value.high - range.value.low)) * H
const path = computed(() => coursePath(props.points ?? [], x, y, W))
</script>

<template>
  <!-- Its room is there before it is: what stands below does not move away from under a finger. -->
  <figure>
    <svg :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="label">
      <line v-if="bound !== undefined" class="limit" x1="0" :x2="W" :y1="y(bound)" :y2="y(bound)" />
      <text v-if="points && !points.length" class="none" :x="W / 2" :y="H / 2">
        {{ $t('alarm.noTrace') }}
      </text>
      <line v-if="came !== undefined" class="came" :x1="x(came)" :x2="x(came)" y1="0" :y2="H" />
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
