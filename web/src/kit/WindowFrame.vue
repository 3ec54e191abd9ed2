<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { onMounted, ref } from 'vue'

// A window over the screen: moved by its head, closed by its button or Escape.
defineProps<{ title: string }>()
const emit = defineEmits<{ close: [] }>()
const place = ref({ x: 0, y: 0 })
const box = ref<HTMLElement>()
let from: { x: number; y: number } | undefined
onMounted(() => box.value?.focus())
useEventListener('pointermove', (e: PointerEvent) => {
  if (from) place.value = { x: e.clientX - from.x, y: e.clientY - from.y }
})
useEventListener('pointerup', () => (from = undefined))
</script>

<template>
  <section
    ref="box"
    class="window"
    role="dialog"
    :aria-label="title"
    tabindex="-1"
    :style="{ transform: `translate(${place.x}px, ${place.y}px)` }"
    @keydown.esc.stop="emit('close')">
    <header @pointerdown="from = { x: $event.clientX - place.x, y: $event.clientY - place.y }">
      <strong>{{ title }}</strong>
      <button class="bare" :aria-label="$t('notice.close')" @pointerdown.stop @click="emit('close')">
        ×
      </button>
    </header>
    <slot />
  </section>
</template>

<style scoped>
.window {
  background: var(--c-sheet);
  border: 1px solid var(--c-ink);
  border-radius: 6px;
  box-shadow: 0 14px 50px #0005;
  overflow: hidden;
  outline: none !important;
  max-width: 100%;
}
header {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 16px;
  min-height: 44px;
  padding: 0 4px 0 16px;
  cursor: move;
  touch-action: none;
  border-bottom: 1px solid var(--c-line);
  font-size: 17px;
}
button {
  min-width: 44px;
  min-height: 44px;
  font-size: 26px;
  text-align: center;
}
</style>
