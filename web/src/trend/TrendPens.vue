<script setup lang="ts">
import uPlot from 'uplot'
import 'uplot/dist/uPlot.min.css'
import { useResizeObserver } from '@vueuse/core'
import { onBeforeUnmount, useTemplateRef, watch } from 'vue'
import { useSettings } from '../kit/settings'
import { label } from './label'
import { painter } from './paint'
import { plotOptions, table, type Ends, type Line } from './pens'
import type { Range } from './range'

// Numbers over time: a line each, the band between the least and the most where
// a pixel hides more than one value, an axis for each unit.
const props = defineProps<{ lines: Line[]; range: Range; ends: Ends; chosen?: string }>()
const settings = useSettings()
const box = useTemplateRef('box')
let plot: uPlot | undefined
let drawn = ''

function draw() {
  const el = box.value
  if (!el || !el.clientWidth || !el.clientHeight) return
  const pens = props.lines.filter((l) => l.pen)
  const size = { width: el.clientWidth, height: el.clientHeight }
  // The plot is made anew where other things are drawn, not where they moved.
  const shape = JSON.stringify([
    pens.map((l) => [l.tag, l.unit, !!l.pen!.step]),
    props.chosen,
    settings.dark,
    settings.language,
  ])
  const data = pens.length
    ? uPlot.join(
        pens.map((l) => table(l.pen!) as uPlot.AlignedData),
        pens.map(() => [0, 1, 1, 1]),
      )
    : ([[]] as unknown as uPlot.AlignedData)
  if (plot && shape === drawn) {
    if (plot.width !== size.width || plot.height !== size.height) plot.setSize(size)
    plot.setData(data)
    return
  }
  plot?.destroy()
  drawn = shape
  plot = new uPlot(
    plotOptions({
      lines: () => props.lines,
      range: () => props.range,
      ends: () => props.ends,
      size,
      paint: painter(el),
      time: label,
      chosen: props.chosen,
    }),
    data,
    el,
  )
}
useResizeObserver(box, draw)
watch(
  [
    () => props.lines,
    () => props.range,
    () => props.ends,
    () => props.chosen,
    () => settings.dark,
    () => settings.language,
  ],
  draw,
  { flush: 'post' },
)
onBeforeUnmount(() => plot?.destroy())
</script>

<template>
  <div ref="box" class="pens" />
</template>

<style scoped>
.pens {
  min-height: 0;
  overflow: hidden;
}
</style>
