<script setup lang="ts">
import { onClickOutside } from '@vueuse/core'
import { computed, shallowRef, useTemplateRef, watch } from 'vue'
import { PRIORITIES } from '../alarms/useAlarms'
import { dayAndTime, moment, toSecond } from '../kit/moment'
import { span } from '../kit/span'
import { whatLedTo } from '../replay/where'
import { clusters, inOrder, type Cluster } from './marks'
import type { Range } from './range'
import type { Marks } from './useMarks'

// What happened, over the axis of time: alarms as tabs with the pips of their
// priority, what people did as ticks, notes as flags. Each opens what it is.
const props = defineProps<{
  marks: Marks
  range: Range
  left: number
  right: number
  perPixel: number
  /** What opens stands above the axis. */
  above?: boolean
  /** The project whose screens can be replayed from here. */
  replay?: string
}>()
const emit = defineEmits<{ look: [at: number]; measure: [from: number, to: number] }>()
const NEAR = 28 // pixels
const shown = computed(() =>
  clusters(
    inOrder(props.marks, props.range.to).filter((m) => m.at >= props.range.from && m.at <= props.range.to),
    NEAR * props.perPixel,
  ),
)
const notes = computed(() =>
  inOrder(props.marks, props.range.to).filter((m) => m.kind === 'note' && m.to > m.at),
)
const place = (at: number) => props.left + (at - props.range.from) / props.perPixel
const kindOf = (c: Cluster) =>
  c.marks[0]!.kind === 'alarm' ? PRIORITIES[c.marks[0]!.priority] : c.marks[0]!.kind
const pips = (c: Cluster) => (c.marks[0]!.kind === 'alarm' ? PRIORITIES.length - c.marks[0]!.priority : 0)

const open = shallowRef<Cluster>()
const card = useTemplateRef('card')
onClickOutside(card, () => (open.value = undefined))
// The keyboard goes on within what was opened.
watch(card, (el) => el?.querySelector<HTMLElement>('a, button')?.focus())
const MOST = 12
</script>

<template>
  <div class="marks" @pointerdown.stop>
    <span
      v-for="n in notes"
      :key="'n' + n.at"
      class="noted"
      :style="{
        left: Math.max(left, place(n.at)) + 'px',
        width: Math.max(0, place(Math.min(n.to, range.to)) - Math.max(left, place(n.at))) + 'px',
      }" />
    <button
      v-for="c in shown"
      :key="c.at"
      class="mark"
      :class="kindOf(c)"
      :style="{ left: place(c.at) + 'px' }"
      :aria-label="`${moment(c.at, dayAndTime)} ${c.marks.map((m) => m.name || m.text).join(', ')}`"
      @click.stop="open = c">
      <i v-for="n in pips(c)" :key="n" />
      <span v-if="c.marks.length > 1" class="n">{{ c.marks.length }}</span>
    </button>
    <div
      v-if="open"
      ref="card"
      class="card"
      :class="{ above }"
      role="dialog"
      :style="{
        left: Math.max(0, Math.min(place(open.at), left + (range.to - range.from) / perPixel - 340)) + 'px',
      }"
      @keydown.esc.stop="open = undefined">
      <div v-for="(m, i) in open.marks.slice(0, MOST)" :key="i" class="line">
        <p>
          <span class="mono">{{ moment(m.at, toSecond) }}</span>
          <span v-if="m.kind === 'alarm'" class="quiet">
            {{ $t($word('alarm.priority', PRIORITIES[m.priority])) }} · {{ span((m.to - m.at) / 1000) }}
          </span>
        </p>
        <p>
          <strong v-if="m.name">{{ m.name }}</strong>
          {{ m.text }}
          <span v-if="m.person" class="quiet">{{ m.person }}</span>
        </p>
        <p class="acts">
          <a v-if="replay" class="chip" :href="whatLedTo(replay, m.at)">{{ $t('trend.replay') }}</a>
          <button class="chip" @click="emit('look', m.at)">{{ $t('trend.before') }}</button>
          <button v-if="m.to > m.at" class="chip" @click="emit('measure', m.at, m.to)">
            {{ $t('trend.measure') }}
          </button>
        </p>
      </div>
      <p v-if="open.marks.length > MOST" class="quiet">
        {{ $t('trend.moreMarks', { n: open.marks.length - MOST }) }}
      </p>
    </div>
  </div>
</template>

<style scoped>
.marks {
  position: relative;
  flex: none;
  height: 22px;
}
.mark {
  --c: var(--c-low);
  --on: var(--c-on-alarm);
  position: absolute;
  top: 3px;
  height: 16px;
  min-width: 10px;
  padding: 0 3px;
  display: inline-flex;
  align-items: center;
  gap: 1px;
  border: 0;
  background: var(--c);
  color: var(--on);
  font-size: 12px;
  line-height: 1;
  cursor: pointer;
}
.mark i {
  width: 2px;
  height: 9px;
  background: currentColor;
}
.mark .n {
  margin-left: 2px;
  font-weight: 700;
}
.critical {
  --c: var(--c-critical);
}
.high {
  --c: var(--c-high);
}
.medium {
  --c: var(--c-medium);
  --on: var(--c-on-medium);
}
.entry {
  background: none;
  color: var(--c-ink);
  border-left: 2px solid var(--c-ink);
}
.note {
  background: var(--c-sheet);
  color: var(--c-ink);
  border: 1.5px solid var(--c-spruce);
  min-width: 12px;
}
.noted {
  position: absolute;
  top: 19px;
  height: 3px;
  background: var(--c-spruce);
}
.mark:focus-visible {
  outline: 2px solid var(--c-spruce);
  outline-offset: 2px;
}
.card {
  position: absolute;
  top: 22px;
  z-index: 6;
  width: 340px;
  max-height: 300px;
  overflow: auto;
  padding: 8px 12px;
  background: var(--c-sheet);
  border: 1px solid var(--c-ink);
  border-radius: 4px;
  box-shadow: 0 6px 24px #0004;
  font-size: 14px;
  cursor: default;
}
.card.above {
  top: auto;
  bottom: 24px;
}
.card p {
  margin: 2px 0;
  display: flex;
  flex-wrap: wrap;
  gap: 0 8px;
}
.line + .line {
  border-top: 1px solid var(--c-line);
}
.acts {
  display: flex;
  gap: 6px;
}
</style>
