<script setup lang="ts">
import { mdiFilterVariant } from '@mdi/js'

/** Words by which a list beside it is filtered. */
defineProps<{ label: string; hint?: string }>()
const text = defineModel<string>({ required: true })
</script>

<template>
  <label class="filter">
    <v-icon :icon="mdiFilterVariant" size="16" />
    <input v-model="text" class="mono" :placeholder="hint ?? $t('tags.filter')" :aria-label="label" />
  </label>
</template>

<style scoped>
.filter {
  display: flex;
  align-items: center;
  gap: 6px;
  border: 1px solid var(--c-line);
  border-radius: 4px;
  background: var(--c-sheet);
  padding: 0 8px;
  min-height: 34px;
}
.filter:focus-within {
  outline: 2px solid var(--c-spruce);
  outline-offset: -1px;
}
input {
  border: 0;
  outline: 0;
  background: none;
  color: inherit;
  width: 100%;
  min-width: 0;
  font-size: 13px;
}
</style>
