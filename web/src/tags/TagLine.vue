<script setup lang="ts">
import type { TagRow } from '../api/client'
import PathText from '../kit/PathText.vue'
import ValueCell from '../kit/ValueCell.vue'
import type { TagValue } from '../live/useTagValues'

// A tag that can be dragged onto the screen, with its present value.
defineProps<{ row: TagRow; name: string; value: TagValue | undefined; on: boolean }>()
</script>

<template>
  <div class="row" draggable="true" :class="{ on }">
    <PathText class="name mono" :path="name" :note="row.tag.description" />
    <ValueCell :value="value" />
  </div>
</template>

<style scoped>
.row {
  display: flex;
  align-items: center;
  gap: 4px;
  height: 28px;
  padding: 0 6px 0 12px;
  cursor: grab;
}
.row:hover,
.row.on {
  background: var(--c-tint);
}
.name {
  flex: 1;
  font-size: 13px;
}
.row :deep(.value) {
  min-width: 0;
  font-size: 12px;
}
</style>
