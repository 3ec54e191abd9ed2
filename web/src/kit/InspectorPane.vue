<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { ref } from 'vue'
import { useSettings } from './settings'

// The right-hand pane; its width is dragged at its edge and remembered.
defineProps<{ title: string; note?: string; mono?: boolean }>()
const settings = useSettings()
const dragging = ref(false)
useEventListener('pointermove', (e: PointerEvent) => {
  if (dragging.value) settings.inspectorWidth = Math.max(260, Math.min(560, window.innerWidth - e.clientX))
})
useEventListener('pointerup', () => (dragging.value = false))
</script>

<template>
  <aside class="pane" :style="{ width: settings.inspectorWidth + 'px' }">
    <div class="edge" role="separator" aria-orientation="vertical" @pointerdown.prevent="dragging = true" />
    <div class="head">
      <div class="names">
        <h2 :class="{ mono }">{{ title }}</h2>
        <div v-if="note" class="quiet small">{{ note }}</div>
      </div>
      <slot name="tools" />
    </div>
    <div class="body"><slot /></div>
  </aside>
</template>

<style scoped>
.pane {
  position: relative;
  flex: none;
  background: var(--c-sheet);
  border-left: 1px solid var(--c-line);
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.edge {
  position: absolute;
  left: -3px;
  top: 0;
  bottom: 0;
  width: 6px;
  cursor: col-resize;
  z-index: 2;
}
.head {
  display: flex;
  gap: 10px;
  align-items: flex-start;
  padding: 14px 14px 8px;
}
.names {
  flex: 1;
  min-width: 0;
}
.names h2 {
  font-size: 16px;
  overflow-wrap: anywhere;
}
.small {
  font-size: 12px;
}
.body {
  flex: 1;
  overflow-y: auto;
  padding: 4px 14px 20px;
  display: flex;
  flex-direction: column;
  gap: 14px;
}
.body :deep(.finding) {
  border-left: 3px solid var(--c-warning);
  padding: 4px 10px;
  font-size: 13px;
  background: color-mix(in srgb, var(--c-warning) 8%, var(--c-sheet));
}
.body :deep(.finding.error) {
  border-color: var(--c-error);
  background: color-mix(in srgb, var(--c-error) 8%, var(--c-sheet));
}
/* A part of an inspector below a line, and what belongs to one of several things in it. */
.body :deep(.block) {
  display: grid;
  gap: 10px;
  border-top: 1px solid var(--c-line);
  padding-top: 10px;
}
.body :deep(.block h2) {
  font-size: 14px;
}
.body :deep(.sub) {
  display: grid;
  gap: 8px;
  border-left: 3px solid var(--c-line);
  padding-left: 10px;
}
</style>
