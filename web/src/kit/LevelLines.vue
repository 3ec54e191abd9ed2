<script setup lang="ts">
import { useId } from 'vue'

/** The lines of boxes laid out by levels, with an arrow at each end that they lead to. */
defineProps<{
  lines: { key: string; d: string; ahead: boolean; back: boolean; title: string; look?: string }[]
  width: number
  height: number
}>()
const tip = useId()
</script>

<template>
  <svg :width="width" :height="height" class="lines" aria-hidden="true">
    <defs>
      <marker
        :id="tip"
        viewBox="0 0 8 8"
        refX="7"
        refY="4"
        markerWidth="8"
        markerHeight="8"
        orient="auto-start-reverse">
        <path d="M0 0L8 4L0 8Z" fill="var(--c-quiet)" />
      </marker>
    </defs>
    <path
      v-for="l in lines"
      :key="l.key"
      :d="l.d"
      class="line"
      :class="l.look"
      :marker-end="l.ahead ? `url(#${tip})` : undefined"
      :marker-start="l.back ? `url(#${tip})` : undefined">
      <title>{{ l.title }}</title>
    </path>
  </svg>
</template>

<style scoped>
.lines {
  position: absolute;
  inset: 0;
}
.line {
  fill: none;
  stroke: var(--c-quiet);
  stroke-width: 1.5;
}
.line:hover {
  stroke: var(--c-spruce);
  stroke-width: 2.5;
}
.line.down {
  stroke: var(--c-error);
  stroke-width: 2.5;
  stroke-dasharray: 6 4;
}
.line.idle {
  stroke-dasharray: 2 4;
}
</style>
