<script setup lang="ts">
import type { Schemas } from '../../api/client'
import LogSpans from '../../logs/LogSpans.vue'
import { useProject } from '../../rail/project'
import type { LogShown } from '../../logs/useLogs'

// Beside a log: its spans, and its tags to draw or not.
type Span = Schemas['LogSpan']
defineProps<{ log: LogShown; drawn?: ReadonlySet<string> }>()
const project = useProject()
const emit = defineEmits<{ toggle: [tag: string]; show: [span: Span]; compare: [span: Span] }>()
</script>

<template>
  <LogSpans
    :project="project.id"
    :log="log"
    @show="emit('show', $event)"
    @compare="emit('compare', $event)" />
  <ul class="tags" :aria-label="$t('log.tags')">
    <li v-for="tag in log.tags" :key="tag.id">
      <label :title="tag.path">
        <input type="checkbox" :checked="drawn?.has(tag.id)" @change="emit('toggle', tag.id)" />
        <span class="mono">{{ tag.path }}</span>
      </label>
    </li>
  </ul>
</template>

<style scoped>
.tags {
  flex: 1 1 160px;
  min-height: 80px;
  overflow: auto;
  margin: 0;
  padding: 6px 0;
  list-style: none;
  border-top: 1px solid var(--c-line);
}
.tags label {
  display: flex;
  align-items: center;
  gap: 6px;
  min-height: 26px;
  padding: 0 14px;
  font-size: 13px;
  cursor: pointer;
}
.tags span {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.tags input {
  accent-color: var(--c-spruce);
}
</style>
