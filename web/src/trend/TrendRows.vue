<script setup lang="ts">
import { useResizeObserver } from '@vueuse/core'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import PathText from '../kit/PathText.vue'
import { useSettings } from '../kit/settings'
import { span } from '../kit/span'
import { drawRow, lookOf } from './drawRow'
import { painter } from './paint'
import { latest, type Line } from './pens'
import type { Range } from './range'

// A labelled row for each BOOL, shaded while it is on, and for states and texts
// as stretches with their names.
const props = defineProps<{
  lines: Line[]
  names: Map<string, string>
  range: Range
  left: number
  right: number
  inverted: Set<string>
  chosen?: string
}>()
const emit = defineEmits<{ choose: [tag: string]; invert: [tag: string] }>()
const H = 26
const { t } = useI18n({ useScope: 'global' })
const settings = useSettings()
const shown = computed(() => props.lines.filter((l) => l.row))
const percent = (l: Line) => (l.row!.known ? Math.round((100 * l.row!.time) / l.row!.known) : 0)

const box = useTemplateRef('box')
function draw() {
  if (!box.value) return
  const paint = painter(box.value)
  const paints = {
    ink: paint('var(--c-ink)'),
    quiet: paint('var(--c-quiet)'),
    tint: paint('var(--c-tint)'),
    line: paint('var(--c-line)'),
    font: '12px ' + paint('var(--sans)'),
  }
  const tracks = box.value.querySelectorAll<HTMLCanvasElement>('canvas')
  shown.value.forEach((l, i) => {
    const canvas = tracks[i]
    if (canvas) drawRow(canvas, l, props.range, props.inverted.has(l.tag), paints)
  })
}
useResizeObserver(box, draw)
watch(
  [shown, () => props.range, () => props.inverted, () => props.left, () => props.right, () => settings.dark],
  draw,
  { flush: 'post', immediate: true },
)

/** What the row was where the pointer is. */
const under = ref('')
function point(e: PointerEvent, l: Line) {
  const { left, width } = (e.currentTarget as HTMLElement).getBoundingClientRect()
  const at = props.range.from + ((e.clientX - left) / width) * (props.range.to - props.range.from)
  const s = l.row!.stretches.find((x) => at >= x.from && at < x.to)
  if (!s) under.value = ''
  else under.value = lookOf(l, s, false) === 'many' ? t('trend.edges', { n: s.edges }) : s.bad || s.text
}
</script>

<template>
  <div ref="box" class="rows">
    <div v-for="l in shown" :key="l.tag" class="row" :class="{ chosen: chosen === l.tag }">
      <button
        class="bare label mono"
        :style="{ width: left + 'px' }"
        :aria-pressed="chosen === l.tag"
        :class="{ bar: inverted.has(l.tag) }"
        :title="$t('trend.rowKeys')"
        @click="emit('choose', l.tag)"
        @dblclick="emit('invert', l.tag)">
        <PathText :path="names.get(l.tag) ?? l.path" />
      </button>
      <div
        class="track"
        :style="{ marginRight: right + 'px', height: H + 'px' }"
        :title="under"
        @pointermove="point($event, l)">
        <canvas role="img" :aria-label="`${l.path} ${latest(l)}`" />
      </div>
      <div
        v-if="chosen === l.tag && l.row!.bool"
        class="figures quiet"
        :style="{ paddingLeft: left + 8 + 'px' }">
        {{
          $t('trend.figures', {
            n: l.row!.on,
            time: span(l.row!.time),
            percent: percent(l),
            least: span(l.row!.least),
            mean: span(l.row!.mean),
            most: span(l.row!.most),
          })
        }}
      </div>
    </div>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: auto 1fr;
  align-items: center;
}
.row:nth-child(even) .track {
  background: color-mix(in srgb, var(--c-paper) 60%, transparent);
}
.label {
  text-align: right;
  padding-right: 8px;
  font-size: 12px;
  font-weight: 700;
  overflow: hidden;
}
.label.bar {
  text-decoration: overline;
}
.chosen .label {
  color: var(--c-spruce);
}
.track {
  position: relative;
  overflow: hidden;
}
canvas {
  display: block;
  width: 100%;
  height: 100%;
}
.figures {
  grid-column: 1 / -1;
  font-size: 12px;
  padding-bottom: 4px;
}
</style>
