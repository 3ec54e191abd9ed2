<script setup lang="ts" generic="T extends string">
// The parts of a stop, one of which is shown.
defineProps<{ tabs: readonly { key: T; title: string; count?: number; alert?: boolean }[] }>()
const shown = defineModel<T>({ required: true })
</script>

<template>
  <div class="tabs" role="tablist">
    <button
      v-for="x in tabs"
      :key="x.key"
      role="tab"
      :aria-selected="shown === x.key"
      :class="{ on: shown === x.key }"
      @click="shown = x.key">
      {{ x.title }}
      <span v-if="x.count !== undefined" class="n" :class="{ err: x.alert }">{{ x.count }}</span>
    </button>
  </div>
</template>

<style scoped>
.tabs {
  display: flex;
  gap: 4px;
  padding: 0 16px;
  background: var(--c-paper);
  border-bottom: 1px solid var(--c-line);
}
.tabs button {
  background: none;
  border: 0;
  padding: 8px 14px;
  cursor: pointer;
  border-bottom: 3px solid transparent;
}
.tabs .on {
  border-color: var(--c-spruce);
  font-weight: 650;
}
.n {
  margin-left: 6px;
  font-size: 12px;
}
</style>
