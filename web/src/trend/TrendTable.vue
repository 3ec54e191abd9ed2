<script setup lang="ts">
import { typedNumber } from '../kit/number'
import PathText from '../kit/PathText.vue'
import TypedInput from '../kit/TypedInput.vue'
import type { Schemas } from '../api/client'
import { figure, latest, style, type Ends, type Line } from './pens'

// What each line was at the two cursors, and did between them.
const props = defineProps<{
  lines: Line[]
  between: Schemas['Between'][]
  measured: boolean
  chosen?: string
  ends: Ends
  touch?: boolean
}>()
const emit = defineEmits<{
  drop: [tag: string]
  choose: [tag: string]
  order: [tag: string, before: string]
  scale: [tag: string, ends: { low?: number; high?: number }]
}>()
const of = (tag: string) => props.between.find((b) => b.tag === tag)
function number(l: Line, v: number | null | undefined, sign = false): string {
  if (v === null || v === undefined) return '—'
  return (sign && v > 0 ? '+' : '') + figure(l, v)
}
/** An end of the axis as it was typed; nothing leaves it to the course. */
function scale(tag: string, end: 'low' | 'high', e: Event) {
  const text = (e.target as HTMLInputElement).value
  const v = typedNumber(text)
  if (v !== undefined || !text.trim()) emit('scale', tag, { [end]: v })
}
const DRAGGED = 'application/x-rr-pen'
const drag = (e: DragEvent, tag: string) => e.dataTransfer?.setData(DRAGGED, tag)
function dropped(e: DragEvent, before: string) {
  const tag = e.dataTransfer?.getData(DRAGGED)
  if (!tag) return
  e.stopPropagation()
  emit('order', tag, before)
}
/** With Alt the arrows move a line up and down. */
function keys(e: KeyboardEvent, at: number) {
  const by = e.key === 'ArrowUp' ? -1 : e.key === 'ArrowDown' ? 1 : 0
  const other = props.lines[at + by]
  if (!e.altKey || !by || !other) return
  e.preventDefault()
  // Down is the other one going up.
  if (by < 0) emit('order', props.lines[at]!.tag, other.tag)
  else emit('order', other.tag, props.lines[at]!.tag)
}
const share = (v: number | undefined) => (v === undefined ? '—' : `${Math.round(v * 100)} %`)
</script>

<template>
  <table class="grid" :class="{ touch }">
    <thead>
      <tr>
        <th>{{ $t('trend.pen') }}</th>
        <th class="n">{{ $t('trend.last') }}</th>
        <th class="n">{{ $t('trend.at', { cursor: 'A' }) }}</th>
        <th class="n">{{ $t('trend.at', { cursor: 'B' }) }}</th>
        <th class="n">B − A</th>
        <th class="n">{{ $t('trend.least') }}</th>
        <th class="n">{{ $t('trend.mean') }}</th>
        <th class="n">{{ $t('trend.most') }}</th>
        <th class="n">{{ $t('trend.deviation') }}</th>
        <th class="n">{{ $t('trend.good') }}</th>
        <th>{{ $t('trend.unit') }}</th>
        <th />
      </tr>
    </thead>
    <tbody>
      <tr
        v-for="(l, i) in lines"
        :key="l.tag"
        draggable="true"
        @dragstart="drag($event, l.tag)"
        @dragover.prevent
        @drop.prevent="dropped($event, l.tag)"
        @keydown="keys($event, i)">
        <td class="name">
          <svg v-if="l.pen" width="20" height="8" aria-hidden="true">
            <line
              x1="0"
              x2="20"
              y1="4"
              y2="4"
              stroke-width="3"
              :stroke="style(i).colour"
              :stroke-dasharray="style(i).dash.join(' ')" />
          </svg>
          <span v-else class="quiet rowMark" aria-hidden="true">⊓</span>
          <button
            class="bare path"
            :class="{ on: chosen === l.tag }"
            :aria-pressed="chosen === l.tag"
            @click="emit('choose', l.tag)">
            <PathText class="mono" :path="l.path" :note="l.text" />
          </button>
        </td>
        <td class="n mono">{{ latest(l) }}</td>
        <template v-if="measured">
          <td class="n mono">{{ of(l.tag)?.a || '—' }}</td>
          <td class="n mono">{{ of(l.tag)?.b || '—' }}</td>
          <td class="n mono">{{ l.pen ? number(l, of(l.tag)?.delta, true) : '' }}</td>
          <td class="n mono">{{ l.pen ? number(l, of(l.tag)?.least) : '' }}</td>
          <td class="n mono">{{ l.pen ? number(l, of(l.tag)?.mean) : '' }}</td>
          <td class="n mono">{{ l.pen ? number(l, of(l.tag)?.most) : '' }}</td>
          <td class="n mono">{{ l.pen ? number(l, of(l.tag)?.deviation) : '' }}</td>
          <td class="n mono">{{ l.pen ? share(of(l.tag)?.good) : '' }}</td>
        </template>
        <td v-else colspan="8" />
        <td class="axis">
          {{ l.unit }}
          <template v-if="l.pen && chosen === l.tag">
            <TypedInput
              v-for="end in ['low', 'high'] as const"
              :key="end"
              class="plain mono"
              :value="ends.get(l.tag)?.[end]"
              :placeholder="$t($word('trend.axis', end))"
              :aria-label="$t($word('trend.axis', end))"
              @change="scale(l.tag, end, $event)" />
          </template>
        </td>
        <td class="n">
          <button
            v-if="!touch"
            class="bare"
            :aria-label="$t('trend.drop', { path: l.path })"
            @click="emit('drop', l.tag)">
            ✕
          </button>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.n {
  text-align: right;
}
.name {
  max-width: 280px;
}
.path {
  max-width: calc(100% - 32px);
}
.path.on {
  font-weight: 700;
}
.axis {
  white-space: nowrap;
}
.touch .path {
  min-height: 44px;
}
.axis input {
  width: 72px;
  min-height: 0;
  padding: 1px 6px;
  margin-left: 6px;
}
.name svg,
.rowMark {
  margin-right: 8px;
  vertical-align: middle;
  display: inline-block;
  width: 20px;
}
</style>
