<script setup lang="ts">
/** A path in a narrow place: cut in front, as its end is what tells one from another. */
defineProps<{ path: string; note?: string }>()
</script>

<template>
  <span class="path-text" :title="note ? path + '\n' + note : path">
    <bdi>{{ path }}</bdi>
  </span>
</template>

<style scoped>
.path-text {
  display: inline-block;
  max-width: 100%;
  vertical-align: bottom;
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  direction: rtl;
  text-align: left;
}
</style>
