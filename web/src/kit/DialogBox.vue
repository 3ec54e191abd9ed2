<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue'

// A dialogue in front of everything: the browser's own keeps the focus within
// it and closes it by Escape; the focus goes back to where it was.
defineProps<{ label: string }>()
const emit = defineEmits<{ close: [] }>()
const box = ref<HTMLDialogElement>()
const before = document.activeElement
onMounted(() => box.value?.showModal())
onBeforeUnmount(() => {
  box.value?.close()
  if (before instanceof HTMLElement || before instanceof SVGElement) before.focus({ preventScroll: true })
})
</script>

<template>
  <dialog
    ref="box"
    role="dialog"
    :aria-label="label"
    @cancel.prevent="emit('close')"
    @pointerdown.self="emit('close')">
    <slot />
  </dialog>
</template>

<style scoped>
dialog {
  padding: 0;
  border: 1px solid var(--c-ink);
  border-radius: 6px;
  background: var(--c-sheet);
  color: var(--c-ink);
  box-shadow: 0 14px 50px #0005;
  font-size: 16px;
  max-width: 100vw;
  max-height: 100vh;
  overflow: auto;
  margin: auto;
}
dialog::backdrop {
  background: color-mix(in srgb, var(--c-rail) 40%, transparent);
}
</style>
