<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { useProject } from '../../rail/project'
import KindPreview from './KindPreview.vue'
import type { Choice, Offer } from './useDrop'

/** The ways to show what was dropped, at the pointer; the best comes first. */
defineProps<{ offer: Offer }>()
const emit = defineEmits<{ choose: [choice: Choice]; cancel: [] }>()
const project = useProject()
useEventListener('keydown', (e: KeyboardEvent) => e.key === 'Escape' && emit('cancel'))
</script>

<template>
  <div class="offer" role="menu" :style="{ left: offer.left + 'px', top: offer.top + 'px' }" @pointerdown.stop>
    <div class="top"><span class="mono">{{ offer.name }}</span><span class="quiet">{{ offer.note }}</span></div>
    <div class="row">
      <button v-for="(c, i) in offer.choices" :key="c.title" role="menuitem" :class="{ first: i === 0 }" @click="emit('choose', c)"><KindPreview :kind="project.kind(c.kind)!" />{{ c.title }}</button>
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
