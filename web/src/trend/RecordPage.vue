<script setup lang="ts">
import { computed } from 'vue'
import type { ViewPen } from './pens'
import { useRange } from './range'
import type { Source } from './source'
import TrendRecords from './TrendRecords.vue'

// A table of recorded values in an element of a screen; it follows now.
const props = defineProps<{
  project: string
  log?: string
  pens: ViewPen[]
  minutes: number
  /** Milliseconds from row to row; 0 for one at each change. */
  every: number
  files: boolean
}>()
const source = computed<Source>(() => ({ project: props.project, log: props.log }))
const tags = computed(() => props.pens.map((p) => p.tag))
const { range } = useRange(props.minutes * 60_000)
</script>

<template>
  <div class="page fingers">
    <TrendRecords
      v-if="tags.length"
      :source="source"
      :tags="tags"
      :range="range"
      :starts="every"
      :files="files"
      newest />
    <p v-else class="quiet">{{ $t('trend.table.none') }}</p>
  </div>
</template>

<style scoped>
.page {
  height: 100%;
  overflow: auto;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
}
</style>
