<script setup lang="ts">
import { ref, watch } from 'vue'
import type { TagValue } from '../live/useTagValues'
import { SPAN } from './spark'

// The last minutes of a value: as they were recorded, and as it came in since.
const props = defineProps<{
  value: TagValue | undefined
  width: number
  height: number
  /** What was recorded before this was open, oldest first. */
  past?: { at: number; v: number }[]
}>()
const points: { at: number; v: number }[] = []
const path = ref('')

function draw() {
  const newest = points.at(-1)
  if (!newest) return
  while (points.length > 2 && newest.at - points[0]!.at > SPAN) points.shift()
  const lo = Math.min(...points.map((p) => p.v))
  const span = Math.max(...points.map((p) => p.v)) - lo || 1
  const from = points[0]!.at
  const time = Math.max(10_000, newest.at - from)
  path.value = points
    .map(
      (p, i) =>
        `${i ? 'L' : 'M'}${(((p.at - from) / time) * props.width).toFixed(1)} ${(props.height - 3 - ((p.v - lo) / span) * (props.height - 6)).toFixed(1)}`,
    )
    .join('')
}
watch(
  () => [props.value?.at, props.value?.number],
  () => {
    const v = props.value
    if (!v || v.number === null) return
    points.push({ at: v.at, v: v.number })
    draw()
  },
  { immediate: true },
)
watch(
  () => props.past,
  (past) => {
    const first = points[0]?.at ?? Infinity
    points.unshift(...(past ?? []).filter((p) => p.at < first))
    draw()
  },
  { immediate: true },
)
</script>

<template>
  <svg :width="width" :height="height" aria-hidden="true">
    <path :d="path" fill="none" stroke="var(--c-spruce)" stroke-width="1.75" stroke-linejoin="round" />
  </svg>
</template>
