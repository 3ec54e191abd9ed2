<script setup lang="ts">
import { ref, watch } from 'vue'
import type { TagValue } from '../live/useTagValues'

// The last minutes of a value as it came in while this was open.
const props = defineProps<{ value: TagValue | undefined; width: number; height: number }>()
const SPAN = 120_000
const points: { at: number; v: number }[] = []
const path = ref('')

watch(
  () => [props.value?.at, props.value?.number],
  () => {
    const v = props.value
    if (!v || v.number === null) return
    points.push({ at: v.at, v: v.number })
    while (points.length > 2 && v.at - points[0]!.at > SPAN) points.shift()
    const lo = Math.min(...points.map((p) => p.v))
    const span = Math.max(...points.map((p) => p.v)) - lo || 1
    const from = points[0]!.at
    const time = Math.max(10_000, v.at - from)
    path.value = points
      .map(
        (p, i) =>
          `${i ? 'L' : 'M'}${(((p.at - from) / time) * props.width).toFixed(1)} ${(props.height - 3 - ((p.v - lo) / span) * (props.height - 6)).toFixed(1)}`,
      )
      .join('')
  },
  { immediate: true },
)
</script>

<template>
  <svg :width="width" :height="height" aria-hidden="true">
    <path :d="path" fill="none" stroke="var(--c-spruce)" stroke-width="1.75" stroke-linejoin="round" />
  </svg>
</template>
