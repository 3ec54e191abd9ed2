<script setup lang="ts">
// A line of fields above what comes of them, in the work below the courses.
const emit = defineEmits<{ send: [] }>()
</script>

<template>
  <form class="bar" @submit.prevent="emit('send')"><slot /></form>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  padding: 8px 16px;
}
.bar :deep(select) {
  flex: 0 1 auto;
  width: auto;
  max-width: 40%;
}
.bar :deep(.short) {
  width: 64px;
}
.bar :deep(a) {
  text-decoration: none;
  color: inherit;
}
</style>
