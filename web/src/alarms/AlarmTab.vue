<script setup lang="ts">
import { computed } from 'vue'
import type { WordOf } from '../i18n/word'

/**
 * An alarm's tab: a notched left edge, as many pips as the priority is worth,
 * its word, and its state by fill, edge and sign, so that no two states look
 * alike without colour or motion. Without a state it says a priority.
 */
const props = defineProps<{ priority: WordOf<'alarm.priority'>; state: string; text?: string }>()
const PIPS: Record<string, number> = { critical: 4, high: 3, medium: 2, low: 1 }
const pips = computed(() => PIPS[props.priority] ?? 0)
const filled = computed(() => props.state === '' || props.state === 'unacknowledged')
const TICK = 'M3 8.5l3.5 4L13 4'
const HOOK = 'M12 4v4H4m3-3L4 8l3 3'
const LOCK = 'M5.5 7V5.5a2.5 2.5 0 0 1 5 0V7M4 7h8v6H4z'
const signs: Record<string, string[]> = {
  acknowledged: [TICK],
  returned: [HOOK],
  'latched-unack': [HOOK, LOCK],
  'latched-ack': [TICK, LOCK],
  shelved: ['M8 3a5 5 0 1 0 0 10a5 5 0 1 0 0-10M8 5.5V8l2 1.5'],
  'out-of-service': ['M4 12L12 4M4 4l8 8M3 13l2-2M11 5l2-2M3 3l2 2M11 11l2 2'],
}
</script>

<template>
  <span class="tab" :class="[priority, state, { filled }]">
    <span class="pips" aria-hidden="true"><i v-for="n in pips" :key="n" /></span>
    <svg v-for="d in signs[state] ?? []" :key="d" class="sign" viewBox="0 0 16 16" aria-hidden="true">
      <path :d="d" />
    </svg>
    <span class="word">{{ text ?? $t($word('alarm.priority', priority)) }}</span>
  </span>
</template>

<style scoped>
.tab {
  --c: var(--c-low);
  --on: var(--c-on-alarm);
  display: inline-flex;
  align-items: center;
  gap: 6px;
  padding: 3px 10px 3px 7px;
  border: 2px solid var(--c);
  border-left-width: 9px;
  color: var(--c-ink);
  font-weight: 650;
  font-size: 14px;
  line-height: 1.2;
  white-space: nowrap;
  clip-path: polygon(0 0, 100% 0, 100% 100%, 0 100%, 5px 75%, 0 50%, 5px 25%);
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
.filled {
  background: var(--c);
  color: var(--on);
}
.tab {
  print-color-adjust: exact;
}
.acknowledged,
.latched-ack {
  border-color: var(--c-ink);
  border-width: 1px 1px 1px 9px;
  border-left-color: var(--c);
  font-weight: 500;
}
.unacknowledged {
  animation: edge 1s steps(1, end) infinite;
}
.shelved {
  border-style: dotted;
}
.suppressed {
  border-width: 1px 1px 1px 9px;
}
.suppressed .word {
  text-decoration: line-through;
}
.out-of-service {
  border-style: dashed;
}
.pips {
  display: flex;
  gap: 2px;
}
.pips i {
  width: 3px;
  height: 11px;
  background: currentColor;
}
.sign {
  width: 16px;
  height: 16px;
}
.sign path {
  fill: none;
  stroke: currentColor;
  stroke-width: 1.8;
}
@keyframes edge {
  50% {
    border-color: var(--c-ink);
    border-left-color: var(--c);
  }
}
@media (prefers-reduced-motion: reduce) {
  .unacknowledged {
    animation: none;
    outline: 2px solid var(--c-ink);
    outline-offset: -4px;
  }
}
</style>
