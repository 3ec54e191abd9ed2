<script setup lang="ts">
import type { TagValue } from '../live/useTagValues'

// A value never stands without its quality: bad is veiled, uncertain dotted.
defineProps<{ value: TagValue | undefined; unit?: string }>()
</script>

<template>
  <span class="value mono" :class="value?.level" :title="value?.reason">
    <span v-if="!value || value.level === 'bad'" class="text">—</span>
    <span v-else class="text">{{ value.text }}</span>
  </span>
</template>

<style scoped>
.value {
  display: inline-flex;
  justify-content: flex-end;
  min-width: 84px;
  padding: 1px 4px;
  font-weight: 600;
}
.value.bad {
  background-image: repeating-linear-gradient(-45deg, var(--c-line) 0 2px, transparent 2px 7px);
  color: var(--c-quiet);
}
.value.held .text {
  border-left: 3px solid currentColor;
  border-right: 3px solid currentColor;
  padding: 0 5px;
}
.value.uncertain .text {
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
</style>
