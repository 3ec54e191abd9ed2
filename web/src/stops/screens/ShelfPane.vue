<script setup lang="ts">
import { computed } from 'vue'
import { useProject } from '../../rail/project'
import KindPreview from './KindPreview.vue'

const emit = defineEmits<{ place: [kind: string] }>()
const project = useProject()
const shelves = computed(() => ['shapes', 'values', 'actions', 'equipment'].map((name) => ({ name, kinds: project.kinds.filter((k) => k.shelf === name) })))
</script>

<template>
  <div class="shelf">
    <template v-for="s in shelves" :key="s.name">
      <h2>{{ $t('shelf.' + s.name) }}</h2>
      <div class="grid2">
        <button v-for="k in s.kinds" :key="k.name" class="kind" draggable="true" :title="$t('shelf.hint')" @dragstart="$event.dataTransfer?.setData('application/x-rr-kind', k.name)" @dblclick="emit('place', k.name)" @keydown.enter="emit('place', k.name)">
          <KindPreview :kind="k" /><span>{{ $t('element.' + k.name) }}</span>
        </button>
      </div>
    </template>
  </div>
</template>

<style scoped>
.shelf { overflow: auto; padding: 10px 12px; }
h2 { font-size: 12px; color: var(--c-quiet); font-weight: 500; margin: 10px 0 4px; }
.grid2 { display: grid; grid-template-columns: repeat(3, 1fr); gap: 4px; }
.kind { display: flex; flex-direction: column; align-items: center; gap: 2px; border: 1px solid transparent; background: none; border-radius: 4px; padding: 4px 2px; cursor: grab; font-size: 11px; color: var(--c-ink); text-align: center; line-height: 1.15; }
.kind:hover { border-color: var(--c-line); background: var(--c-tint); }
</style>
