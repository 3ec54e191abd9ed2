<script setup lang="ts">
import { computed, reactive, ref, watch } from 'vue'
import { dayAndTime, moment } from '../kit/moment'
import type { Range } from './range'
import { fromLocal, toLocal } from './window'

// The time that is looked at, and where it is chosen by its ends.
const props = defineProps<{ range: Range; touch?: boolean }>()
const emit = defineEmits<{ look: [range: Range] }>()
const open = ref(false)
const ENDS = ['from', 'to'] as const
const ends = reactive({ from: '', to: '' })
watch(open, (opens) => {
  if (!opens) return
  for (const end of ENDS) ends[end] = toLocal(props.range[end])
})
const chosen = computed<Range | undefined>(() => {
  const [a, b] = [fromLocal(ends.from), fromLocal(ends.to)]
  return a !== undefined && b !== undefined && a < b ? { from: a, to: b } : undefined
})
function show() {
  if (!chosen.value) return
  emit('look', chosen.value)
  open.value = false
}
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false" location="bottom start">
    <template #activator="{ props: opens }">
      <button class="bare when mono" :class="{ touch }" v-bind="opens" :title="$t('trend.when.choose')">
        {{ moment(range.from, dayAndTime) }} – {{ moment(range.to, dayAndTime) }}
      </button>
    </template>
    <form class="sheet" :class="{ touch }" @submit.prevent="show">
      <label v-for="end in ENDS" :key="end">
        {{ $t($word('trend.when', end)) }}
        <input
          v-model="ends[end]"
          class="plain mono"
          type="datetime-local"
          step="1"
          :aria-label="$t($word('trend.when', end))" />
      </label>
      <v-btn type="submit" color="primary" :disabled="!chosen">{{ $t('trend.when.show') }}</v-btn>
    </form>
  </v-menu>
</template>

<style scoped>
.when {
  min-height: 34px;
  font-size: 14px;
}
.touch.when,
.touch input,
.touch :deep(.v-btn) {
  min-height: 44px;
}
.sheet {
  display: grid;
  gap: 10px;
  padding: 14px 16px;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
}
label {
  display: grid;
  grid-template-columns: 48px 1fr;
  align-items: center;
  gap: 8px;
  font-size: 13px;
}
</style>
