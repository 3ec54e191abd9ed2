<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import type { Schemas } from '../../api/client'

// One line: what it names and how many, the way to have the same of every
// equipment, and away with it.
defineProps<{ line: Schemas['LogLine'] }>()
const emit = defineEmits<{ every: [pick: Schemas['Pick']]; drop: [] }>()
</script>

<template>
  <div class="line">
    <span class="mono text" :class="{ none: !line.count }">{{ line.text || '—' }}</span>
    <span class="quiet">{{ $t('log.names', { n: line.count }, line.count) }}</span>
    <button v-if="line.every" class="chip" @click="emit('every', line.every)">
      {{ $t('log.every', { type: line.everyName }) }}
    </button>
    <button class="bare" :aria-label="$t('log.drop', { text: line.text })" @click="emit('drop')">
      <v-icon :icon="mdiClose" size="16" />
    </button>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 2px 0;
  font-size: 13px;
}
.text {
  flex: 1;
  min-width: 0;
  overflow-wrap: anywhere;
}
.none {
  color: var(--c-error);
}
</style>
