<script setup lang="ts">
import { computed } from 'vue'
import { TIMES } from '../../alarms/columns'
import type { WordOf } from '../../i18n/word'

/** The columns of a list of alarms: each is put at the end, or taken away. */
const props = defineProps<{ label: string; modelValue: string }>()
const emit = defineEmits<{ 'update:modelValue': [value: string] }>()
const all: WordOf<'alarmColumn'>[] = [
  'tab',
  'time',
  'path',
  'name',
  'text',
  'state',
  'value',
  'limit',
  'area',
  'group',
  'came',
  'acked',
  'by',
  'went',
  'long',
]
const read = computed(() =>
  props.modelValue
    .split(',')
    .map((c) => c.trim().split(':'))
    .flatMap(([c, format]): [WordOf<'alarmColumn'>, string | undefined][] => {
      const known = all.find((x) => x === c)
      return known ? [[known, format]] : []
    }),
)
const chosen = computed(() => read.value.map(([c]) => c))
const write = (list: [WordOf<'alarmColumn'>, string | undefined][]) =>
  emit(
    'update:modelValue',
    list.map(([c, format]) => (format && format !== 'time' ? `${c}:${format}` : c)).join(','),
  )
const flip = (c: WordOf<'alarmColumn'>) =>
  write(chosen.value.includes(c) ? read.value.filter(([x]) => x !== c) : [...read.value, [c, undefined]])
const formats = ['time', 'date', 'both']
const formatOf = (c: string) => read.value.find(([x]) => x === c)?.[1] ?? 'time'
const turn = (c: string) =>
  write(
    read.value.map(([x, f]) => [
      x,
      x === c ? formats[(formats.indexOf(f ?? 'time') + 1) % formats.length] : f,
    ]),
  )
</script>

<template>
  <div class="field">
    <label>{{ label }}</label>
    <div class="columns" role="group" :aria-label="label">
      <button
        v-for="c in all"
        :key="c"
        type="button"
        class="chip"
        :class="{ on: chosen.includes(c) }"
        :aria-pressed="chosen.includes(c)"
        @click="flip(c)">
        <template v-if="chosen.includes(c)">{{ chosen.indexOf(c) + 1 }} ·</template>
        {{ $t($word('alarmColumn', c)) }}
      </button>
    </div>
    <div v-if="chosen.some((c) => TIMES.includes(c))" class="columns">
      <button
        v-for="c in chosen.filter((x) => TIMES.includes(x))"
        :key="c"
        type="button"
        class="chip"
        @click="turn(c)">
        {{ $t($word('alarmColumn', c)) }}: {{ $t($word('choice', formatOf(c))) }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.columns {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.on {
  background: var(--c-tint);
  border-color: var(--c-spruce);
}
</style>
