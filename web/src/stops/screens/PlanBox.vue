<script setup lang="ts">
import WindowFrame from '../../kit/WindowFrame.vue'

// A window over the canvas for an edit that is shown before it is made: its
// fields, what it would do, and the button that does it.
defineProps<{ title: string; about: string; action: string; ready: boolean; problem: string }>()
const emit = defineEmits<{ close: []; act: [] }>()
</script>

<template>
  <div class="place">
    <WindowFrame :title="title" @close="emit('close')">
      <form class="box" @submit.prevent="emit('act')">
        <p class="quiet">{{ about }}</p>
        <slot />
        <div v-if="$slots.lines" class="lines mono"><slot name="lines" /></div>
        <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
        <v-btn type="submit" color="primary" :disabled="!ready">{{ action }}</v-btn>
      </form>
    </WindowFrame>
  </div>
</template>

<style scoped>
.place {
  position: absolute;
  left: 50%;
  top: 60px;
  transform: translateX(-50%);
  z-index: 9;
}
.box {
  display: grid;
  gap: 10px;
  padding: 12px 16px 16px;
  width: 460px;
}
.box :deep(.row) {
  display: grid;
  grid-auto-columns: 1fr;
  grid-auto-flow: column;
  gap: 10px;
}
.box :deep(label) {
  display: grid;
  font-size: 12px;
  color: var(--c-quiet);
}
.box :deep(.line) {
  display: flex;
  gap: 8px;
  align-items: center;
}
.lines {
  max-height: 240px;
  overflow: auto;
  border: 1px solid var(--c-line);
  padding: 6px 8px;
  font-size: 12px;
}
.lines :deep(.bad) {
  color: var(--c-error);
}
p {
  margin: 0;
}
</style>
