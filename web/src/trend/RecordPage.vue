<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { computed } from 'vue'
import type { ViewPen } from './pens'
import { useRange } from './range'
import type { Source } from './source'
import type { Told } from './told'
import TrendRecords from './TrendRecords.vue'

// A table of recorded values in an element of a screen; it follows now.
const props = defineProps<{
  project: string
  log?: string
  pens: ViewPen[]
  minutes: number
  /** The window that tags tell; where it is not given the table follows now. */
  told?: Told
  /** Milliseconds from row to row; 0 for one at each change. */
  every: number
  files: boolean
}>()
const source = computed<Source>(() => ({ project: props.project, log: props.log }))
const { range, tick } = useRange(props.minutes * 60_000)
useIntervalFn(() => props.told || document.hidden || tick(), 1000)
const looked = computed(() => (props.told ? props.told.value : range.value))
</script>

<template>
  <div class="page fingers">
    <TrendRecords
      v-if="pens.length && looked"
      :source="source"
      :pens="pens"
      :range="looked"
      :starts="every"
      :files="files"
      newest />
    <p v-else class="quiet none">{{ $t(looked ? 'trend.table.none' : 'trend.when.unknown') }}</p>
  </div>
</template>

<style scoped>
.page {
  height: 100%;
  overflow: auto;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
}
.none {
  padding: 8px 16px;
}
</style>
