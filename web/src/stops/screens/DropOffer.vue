<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { useCatalogue } from '../../rail/catalogue'
import KindPreview from './KindPreview.vue'
import type { Choice, Offer, Place } from './useDrop'

/** The ways to show what was dropped, at the pointer; the best comes first. */
defineProps<{ offer: Offer }>()
const emit = defineEmits<{ choose: [choice: Choice]; bind: [place: Place]; cancel: [] }>()
const catalogue = useCatalogue()
useEventListener('keydown', (e: KeyboardEvent) => e.key === 'Escape' && emit('cancel'))
</script>

<template>
  <div
    class="offer"
    role="menu"
    :style="{ left: offer.left + 'px', top: offer.top + 'px' }"
    @pointerdown.stop>
    <div class="top">
      <span class="mono">{{ offer.name }}</span>
      <span class="quiet">{{ offer.note }}</span>
    </div>
    <div v-if="offer.onto" class="onto">
      <span class="quiet">{{ $t('drop.onto', { name: offer.onto.name }) }}</span>
      <button
        v-for="(p, i) in offer.onto.places"
        :key="p.title"
        role="menuitem"
        class="chip"
        :class="{ on: i === 0 }"
        @click="emit('bind', p)">
        {{ p.title }}
      </button>
    </div>
    <div class="row">
      <button
        v-for="(c, i) in offer.choices"
        :key="c.title"
        role="menuitem"
        :class="{ first: i === 0 && !offer.onto }"
        @click="emit('choose', c)">
        <KindPreview :kind="catalogue.kind(c.kind)!" />
        {{ c.title }}
      </button>
      <button role="menuitem" class="quiet" @click="emit('cancel')">{{ $t('common.cancel') }}</button>
    </div>
  </div>
</template>

<style scoped>
.offer {
  position: absolute;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
  border-radius: 6px;
  padding: 8px 10px;
  box-shadow: 0 8px 28px #0003;
  z-index: 5;
}
.top {
  display: flex;
  gap: 10px;
  justify-content: space-between;
  margin-bottom: 6px;
}
.onto {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
  max-width: 420px;
  padding-bottom: 8px;
  margin-bottom: 6px;
  border-bottom: 1px solid var(--c-line);
}
.row {
  display: flex;
  gap: 6px;
}
.row button {
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: flex-end;
  gap: 2px;
  min-width: 64px;
  border: 1px solid transparent;
  background: none;
  border-radius: 4px;
  padding: 4px 6px;
  cursor: pointer;
  font-size: 12px;
}
.row button:hover,
.row .first {
  border-color: var(--c-spruce);
  background: var(--c-tint);
}
</style>
