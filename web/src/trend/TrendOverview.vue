<script setup lang="ts">
import { useElementSize, useIntervalFn } from '@vueuse/core'
import { computed, shallowRef, useTemplateRef, watch } from 'vue'
import { api, ask } from '../api/client'
import { extent, table, type Line } from './pens'
import type { useRange } from './range'
import type { Source } from './source'

// The whole of what is kept, in small: the course of the first pen over 30 days,
// with the part that is looked at, which is moved by a press or a drag.
const props = defineProps<{
  source: Source
  tag: string
  looked: ReturnType<typeof useRange>
  left: number
  right: number
}>()
const DAYS = 30 * 24 * 3_600_000
const EVERY = 60_000
const POINTS = 300
const H = 30
const line = shallowRef<Line>()
const whole = shallowRef({ from: Date.now() - DAYS, to: Date.now() })

async function load() {
  const to = Date.now()
  const query = { tags: props.tag, from: to - DAYS, to, points: POINTS, log: props.source.log }
  const got = await ask(
    api.GET('/api/projects/{project}/trend', { params: { path: { project: props.source.project }, query } }),
  ).catch(() => undefined)
  if (!got || query.tags !== props.tag) return
  whole.value = { from: to - DAYS, to }
  line.value = got.lines[0]
}
watch(() => [props.source, props.tag], load, { immediate: true })
useIntervalFn(() => !document.hidden && load(), EVERY)

const box = useTemplateRef('box')
const { width } = useElementSize(box)
const x = (at: number) => ((at - whole.value.from) / (whole.value.to - whole.value.from)) * width.value
const path = computed(() => {
  const l = line.value
  if (!l?.pen) return ''
  const [low, high] = extent([l], l.unit)
  const [at, , , values] = table(l.pen)
  let d = ''
  let pen = 'M'
  values.forEach((v, i) => {
    if (v === null) return void (pen = 'M')
    d += `${pen}${x(at[i]! * 1000).toFixed(1)} ${(H - 3 - ((v - low) / (high - low)) * (H - 6)).toFixed(1)}`
    pen = 'L'
  })
  return d
})
const part = computed(() => {
  const { from, to } = props.looked.range.value
  const left = Math.max(0, x(from))
  return { left, width: Math.max(4, Math.min(width.value, x(to)) - left) }
})

/** Puts the middle of what is looked at where the pointer is. */
function move(e: PointerEvent, keep: boolean) {
  const { left } = box.value!.getBoundingClientRect()
  const at =
    whole.value.from + ((e.clientX - left) / Math.max(1, width.value)) * (whole.value.to - whole.value.from)
  const half = props.looked.length.value / 2
  props.looked.look({ from: at - half, to: at + half }, keep)
}
function down(e: PointerEvent) {
  ;(e.currentTarget as Element).setPointerCapture(e.pointerId)
  move(e, true)
}
</script>

<template>
  <div
    ref="box"
    class="overview"
    aria-hidden="true"
    :style="{ marginLeft: left + 'px', marginRight: right + 'px' }"
    @pointerdown.stop="down"
    @pointermove="$event.buttons && move($event, false)">
    <svg :width="width" :height="H"><path :d="path" /></svg>
    <span class="part" :style="{ left: part.left + 'px', width: part.width + 'px' }" />
  </div>
</template>

<style scoped>
.overview {
  position: relative;
  flex: none;
  height: 30px;
  background: var(--c-paper);
  border: 1px solid var(--c-line);
  box-sizing: border-box;
  cursor: ew-resize;
  touch-action: none;
}
svg {
  display: block;
}
path {
  fill: none;
  stroke: var(--c-quiet);
  stroke-width: 1.2;
}
.part {
  position: absolute;
  top: 0;
  bottom: 0;
  background: color-mix(in srgb, var(--c-spruce) 25%, transparent);
  border: solid var(--c-spruce);
  border-width: 0 2px;
  box-sizing: border-box;
}
</style>
