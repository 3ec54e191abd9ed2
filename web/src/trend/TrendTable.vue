<script setup lang="ts">
import PathText from '../kit/PathText.vue'
import type { Schemas } from '../api/client'
import { style, type Line } from './pens'

// What each line was at the two cursors, and did between them.
const props = defineProps<{
  lines: Line[]
  between: Schemas['Between'][]
  measured: boolean
  chosen?: string
}>()
const emit = defineEmits<{ drop: [tag: string]; choose: [tag: string] }>()
const of = (tag: string) => props.between.find((b) => b.tag === tag)
function number(l: Line, v: number | null | undefined, sign = false): string {
  if (v === null || v === undefined) return '—'
  const text = v.toFixed(l.decimals >= 0 ? l.decimals : Math.abs(v) < 10 ? 2 : 1)
  return sign && v > 0 ? '+' + text : text.replace('-', '−')
}
const share = (v: number | undefined) => (v === undefined ? '—' : `${Math.round(v * 100)} %`)
</script>

<template>
  <table class="grid">
    <thead>
      <tr>
        <th>{{ $t('trend.pen') }}</th>
        <th class="n">{{ $t('trend.at', { cursor: 'A' }) }}</th>
        <th class="n">{{ $t('trend.at', { cursor: 'B' }) }}</th>
        <th class="n">B − A</th>
        <th class="n">{{ $t('trend.least') }}</th>
        <th class="n">{{ $t('trend.mean') }}</th>
        <th class="n">{{ $t('trend.most') }}</th>
        <th class="n">{{ $t('trend.good') }}</th>
        <th>{{ $t('trend.unit') }}</th>
        <th />
      </tr>
    </thead>
    <tbody>
      <tr v-for="(l, i) in lines" :key="l.tag">
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
        <template v-if="measured">
          <td class="n mono">{{ of(l.tag)?.a || '—' }}</td>
          <td class="n mono">{{ of(l.tag)?.b || '—' }}</td>
          <td class="n mono">{{ l.pen ? number(l, of(l.tag)?.delta, true) : '' }}</td>
          <td class="n mono">{{ l.pen ? number(l, of(l.tag)?.least) : '' }}</td>
          <td class="n mono">{{ l.pen ? number(l, of(l.tag)?.mean) : '' }}</td>
          <td class="n mono">{{ l.pen ? number(l, of(l.tag)?.most) : '' }}</td>
          <td class="n mono">{{ l.pen ? share(of(l.tag)?.good) : '' }}</td>
        </template>
        <td v-else colspan="7" />
        <td>{{ l.unit }}</td>
        <td class="n">
          <button class="bare" :aria-label="$t('trend.drop', { path: l.path })" @click="emit('drop', l.tag)">
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
.name svg,
.rowMark {
  margin-right: 8px;
  vertical-align: middle;
  display: inline-block;
  width: 20px;
}
</style>
