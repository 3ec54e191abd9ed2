<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, onMounted, shallowRef } from 'vue'
import { api, ask, type Schemas, type TagRow } from '../../api/client'
import { useProject } from '../../rail/project'
import KindPreview from './KindPreview.vue'

// What can show the dropped tag, at the pointer; the best comes first.
const props = defineProps<{ tags: string[]; points: Schemas['ScreenPoint'][] }>()
const emit = defineEmits<{ choose: [kind: string]; cancel: [] }>()
const project = useProject()
const row = shallowRef<TagRow>()
onMounted(async () => {
  if (props.tags.length) row.value = await ask(api.GET('/api/projects/{project}/tags/{id}', { params: { path: { ...project.path, id: props.tags[0]! } } }))
})
const kinds = computed(() => (row.value?.offers ?? props.points[0]?.offers ?? []).map((o) => project.kind(o)!).filter(Boolean))
useEventListener('keydown', (e: KeyboardEvent) => e.key === 'Escape' && emit('cancel'))
</script>

<template>
  <div v-if="row || points.length" class="offer" role="menu" @pointerdown.stop>
    <div class="top"><span class="mono">{{ tags.length + points.length > 1 ? $t('drop.many', { n: tags.length + points.length }) : (row?.path ?? points[0]?.path) }}</span><span class="quiet">{{ row?.tag.type ?? points[0]?.kind }}</span></div>
    <div class="row">
      <button v-for="(k, i) in kinds" :key="k.name" role="menuitem" :class="{ first: i === 0 }" @click="emit('choose', k.name)"><KindPreview :kind="k" />{{ project.kindTitle(k.name) }}</button>
      <button v-if="tags.length > 1" role="menuitem" @click="emit('choose', 'table')">{{ $t('drop.labels') }}</button>
      <button v-if="tags.length > 1" role="menuitem" @click="emit('choose', 'tagtable')">{{ $t('drop.table') }}</button>
      <button role="menuitem" class="quiet" @click="emit('cancel')">{{ $t('common.cancel') }}</button>
    </div>
  </div>
</template>

<style scoped>
.offer { position: absolute; background: var(--c-sheet); border: 1px solid var(--c-line); border-radius: 6px; padding: 8px 10px; box-shadow: 0 8px 28px #0003; z-index: 5; }
.top { display: flex; gap: 10px; justify-content: space-between; margin-bottom: 6px; }
.row { display: flex; gap: 6px; }
.row button { display: flex; flex-direction: column; align-items: center; justify-content: flex-end; gap: 2px; min-width: 64px; border: 1px solid transparent; background: none; border-radius: 4px; padding: 4px 6px; cursor: pointer; font-size: 12px; }
.row button:hover, .row .first { border-color: var(--c-spruce); background: var(--c-tint); }
</style>
