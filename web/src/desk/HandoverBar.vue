<script setup lang="ts">
import type { Handover } from './useHandovers'

// A note that waits to be taken over; it hides nothing and takes no focus.
defineProps<{ note: Handover }>()
const emit = defineEmits<{ open: [] }>()
</script>

<template>
  <div class="bar" role="status">
    <span class="says">
      <strong>{{ $t('handover.from', { name: note.name }) }}</strong>
      {{ note.text }}
    </span>
    <button @click="emit('open')">{{ $t('handover.read') }}</button>
  </div>
</template>

<style scoped>
.bar {
  flex: none;
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 4px 16px;
  background: var(--c-tint);
  color: var(--c-ink);
  border-bottom: 1px solid var(--c-line);
}
.says {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
button {
  min-height: 44px;
  padding: 0 16px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 16px;
  font-weight: 600;
  cursor: pointer;
}
</style>
