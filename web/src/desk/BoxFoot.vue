<script setup lang="ts">
// What ends a box at the Desk: it stays in reach of a finger, however much is above it.
defineProps<{ close: string; go: string; shut: boolean }>()
const emit = defineEmits<{ close: [] }>()
</script>

<template>
  <div class="foot">
    <button type="button" @click="emit('close')">{{ close }}</button>
    <button class="go" type="submit" :disabled="shut" autofocus>{{ go }}</button>
  </div>
</template>

<style scoped>
.foot {
  position: sticky;
  bottom: -18px;
  margin: 0 -18px -18px;
  padding: 10px 18px 18px;
  background: var(--c-sheet);
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
button {
  min-height: 50px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 17px;
  cursor: pointer;
}
.go {
  background: var(--c-spruce);
  border-color: var(--c-spruce);
  color: var(--c-on-spruce);
  font-weight: 650;
}
.go:disabled {
  opacity: 0.45;
}
</style>
