<script setup lang="ts">
import LogMark from '../../logs/LogMark.vue'
import type { LogShown } from '../../logs/useLogs'

// The logs, each with how it stands.
defineProps<{ logs: LogShown[]; open?: string }>()
const emit = defineEmits<{ open: [log: string]; make: [] }>()
</script>

<template>
  <nav class="logs" :aria-label="$t('log.logs')">
    <h2>
      {{ $t('log.logs') }}
      <button class="bare make" @click="emit('make')">{{ $t('log.make') }}</button>
    </h2>
    <button
      v-for="l in logs"
      :key="l.id"
      class="bare log"
      :class="{ on: l.id === open }"
      :aria-current="l.id === open || undefined"
      :title="l.note"
      @click="emit('open', l.id)">
      <span class="name">{{ l.name }}</span>
      <LogMark :state="l.state" />
    </button>
  </nav>
</template>

<style scoped>
.logs {
  flex: 0 1 auto;
  max-height: 30%;
  overflow: auto;
  padding: 8px 0;
  border-bottom: 1px solid var(--c-line);
}
h2 {
  display: flex;
  justify-content: space-between;
  margin: 0 14px 4px;
  font-size: 13px;
  font-weight: 600;
  color: var(--c-quiet);
}
.make {
  font-size: 13px;
  color: var(--c-spruce);
}
.log {
  display: flex;
  gap: 8px;
  width: 100%;
  padding: 4px 14px;
  font-size: 14px;
  text-align: left;
}
.log.on {
  background: var(--c-tint);
  font-weight: 700;
}
.name {
  flex: 1;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
