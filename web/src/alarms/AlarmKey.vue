<script setup lang="ts">
import AlarmTab from './AlarmTab.vue'
import { PRIORITIES } from './useAlarms'

/** What the codes of alarms mean: priorities by pips, states by fill, edge and sign. */
const states = [
  'unacknowledged',
  'acknowledged',
  'returned',
  'latched-unack',
  'latched-ack',
  'shelved',
  'suppressed',
  'out-of-service',
] as const
</script>

<template>
  <div class="key">
    <div v-for="p in PRIORITIES" :key="p"><AlarmTab :priority="p" state="" /></div>
    <div v-for="s in states" :key="s">
      <AlarmTab priority="medium" :state="s" text="" />
      {{ $t($word('alarm.state', s)) }}
    </div>
  </div>
</template>

<style scoped>
.key {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 16px;
  align-content: flex-start;
  font-size: 15px;
  color: var(--c-ink);
  height: 100%;
}
.key > div {
  display: flex;
  align-items: center;
  gap: 8px;
}
</style>
