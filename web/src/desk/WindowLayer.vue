<script setup lang="ts">
// Windows over a screen, in the middle of it; the screen between them answers as ever.
defineProps<{ front?: boolean }>()
</script>

<template>
  <div class="windows" :class="{ front }"><slot /></div>
</template>

<style scoped>
.windows {
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  pointer-events: none;
  z-index: 10;
}
.windows > :slotted(*) {
  pointer-events: auto;
  grid-area: 1 / 1;
}
.windows.front {
  z-index: 12;
}
</style>
