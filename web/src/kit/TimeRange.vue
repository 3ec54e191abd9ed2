<script setup lang="ts">
import { CHOSEN, type Range } from './timeRange'

/** Of which time a list is. */
const range = defineModel<Range>({ required: true })
const set = (part: Partial<Range>) => (range.value = { ...range.value, ...part })
const text = (e: Event) => (e.target as HTMLInputElement).value
</script>

<template>
  <select
    class="plain"
    :value="range.hours"
    :aria-label="$t('alarm.range')"
    @change="set({ hours: Number(text($event)) })">
    <option :value="1">1 h</option>
    <option :value="8">8 h</option>
    <option :value="24">24 h</option>
    <option :value="168">7 d</option>
    <option :value="0">{{ $t('alarm.ever') }}</option>
    <option :value="CHOSEN">{{ $t('alarm.chosenRange') }}</option>
  </select>
  <template v-if="range.hours === CHOSEN">
    <input
      v-for="end in ['from', 'to'] as const"
      :key="end"
      class="plain time"
      type="datetime-local"
      :value="range[end]"
      :aria-label="$t($word('alarm', end))"
      @change="set({ [end]: text($event) })" />
  </template>
</template>

<style scoped>
select {
  width: 110px;
}
.time {
  width: 190px;
}
</style>
