<script setup lang="ts">
// What waits for somebody at the Desk, below its head; it hides nothing and takes no
// focus.
</script>

<template>
  <div class="bar" role="status">
    <span class="says"><slot /></span>
    <slot name="acts" />
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
.bar :deep(button) {
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
