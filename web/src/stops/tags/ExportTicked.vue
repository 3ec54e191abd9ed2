<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { useProject } from '../../rail/project'

// The folders that are ticked in the tree, as one list to take along.
const props = defineProps<{ folders: string[] }>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
function url(format: string) {
  const query = new URLSearchParams([['format', format], ...props.folders.map((f) => ['folder', f])])
  return `/api/projects/${project.id}/export?${query}`
}
</script>

<template>
  <div class="ticked" role="status">
    <span>{{ $t('tags.ticked', { n: folders.length }, folders.length) }}</span>
    <a :href="url('csv')" download>CSV</a>
    <a :href="url('xlsx')" download>Excel</a>
    <button class="bare" :aria-label="$t('notice.close')" :title="$t('notice.close')" @click="emit('close')">
      <v-icon :icon="mdiClose" size="16" />
    </button>
  </div>
</template>

<style scoped>
.ticked {
  position: sticky;
  bottom: -10px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
  padding: 8px 12px;
  margin-top: 8px;
  background: var(--c-tint);
  border-top: 1px solid var(--c-line);
  font-size: 13px;
}
.ticked span {
  flex: 1 1 100%;
}
.ticked a {
  font-weight: 650;
}
</style>
