<script setup lang="ts">
import type { LogShown } from './useLogs'

// How a log stands: by a shape and a word.
defineProps<{ state: LogShown['state'] }>()
</script>

<template>
  <span class="mark" :class="state">
    <svg viewBox="0 0 12 12" width="12" height="12" aria-hidden="true">
      <path v-if="state === 'on'" d="M1 3h7v6h-7zM9 3h2v6h-2z" fill="currentColor" />
      <path v-else-if="state === 'waiting'" d="M1.5 3.5h9v5h-9z" fill="none" stroke="currentColor" />
      <path v-else-if="state === 'full'" d="M1 1h10v10h-10z" fill="currentColor" />
      <path v-else-if="state === 'failing'" d="M2 2l8 8M10 2l-8 8" stroke="currentColor" stroke-width="2" />
      <path v-else d="M1 6h10" stroke="currentColor" stroke-width="2" />
    </svg>
    {{ $t($word('log.state', state)) }}
  </span>
</template>

<style scoped>
.mark {
  display: inline-flex;
  align-items: center;
  gap: 4px;
  font-size: 13px;
  font-weight: 400;
  color: var(--c-quiet);
  white-space: nowrap;
}
.on {
  color: var(--c-spruce);
}
.full,
.failing {
  color: var(--c-error);
}
</style>
