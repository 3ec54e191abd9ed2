<script setup lang="ts">
import { computed } from 'vue'
import PathText from '../kit/PathText.vue'
import { span } from '../kit/span'
import type { Range } from './range'
import type { Line } from './pens'
import type { Stretch } from './rows'

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

const across = (at: number) => ((at - props.range.from) / (props.range.to - props.range.from)) * 100
function on(l: Line, s: Stretch): boolean {
  return !s.bad && !s.edges && (s.value === 1) !== props.inverted.has(l.tag)
}
function kind(l: Line, s: Stretch): string {
  if (s.bad) return 'bad'
  if (s.edges) return 'many'
  return l.row!.bool ? (on(l, s) ? 'on' : 'off') : 'state'
}
const shown = computed(() => props.lines.filter((l) => l.row))
const percent = (l: Line) => (l.row!.known ? Math.round((100 * l.row!.time) / l.row!.known) : 0)
</script>

<template>
  <div class="rows">
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
      <div class="track" :style="{ marginRight: right + 'px', height: H + 'px' }">
        <span
          v-for="(s, i) in l.row!.stretches"
          :key="i"
          class="stretch"
          :class="kind(l, s)"
          :style="{ left: across(s.from) + '%', width: across(s.to) - across(s.from) + '%' }"
          :title="s.bad || (s.edges ? $t('trend.edges', { n: s.edges }) : s.text)">
          <template v-if="kind(l, s) === 'state'">{{ s.text }}</template>
        </span>
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
.stretch {
  position: absolute;
  inset-block: 4px;
  box-sizing: border-box;
  font-size: 12px;
  line-height: 18px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: clip;
}
.on {
  background: var(--c-tint);
  border: solid var(--c-ink);
  border-width: 1.5px 1.5px 0;
}
.off {
  border-bottom: 1.5px solid var(--c-ink);
}
.state {
  background: var(--c-tint);
  border-left: 1.5px solid var(--c-quiet);
  padding-left: 5px;
}
.many {
  background: repeating-linear-gradient(90deg, var(--c-ink) 0 1px, var(--c-tint) 1px 3px);
}
.bad {
  background: repeating-linear-gradient(135deg, var(--c-line) 0 1px, transparent 1px 6px);
}
.figures {
  grid-column: 1 / -1;
  font-size: 12px;
  padding-bottom: 4px;
}
</style>
