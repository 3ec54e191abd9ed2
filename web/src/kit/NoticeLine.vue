<script setup lang="ts">
import { useNotice } from './problem'

// The line at the foot of the window: what was refused, or what was done.
const notice = useNotice()
</script>

<template>
  <div v-if="notice.text" class="notice" :class="{ bad: notice.bad }" role="status">
    <span>{{ notice.text }}</span>
    <button class="bare" @click="notice.clear()">{{ $t('notice.close') }}</button>
  </div>
</template>

<style scoped>
.notice {
  position: absolute;
  left: 50%;
  bottom: 44px;
  transform: translateX(-50%);
  display: flex;
  gap: 16px;
  background: var(--c-rail);
  color: var(--c-rail-text);
  border-radius: 4px;
  padding: 8px 14px;
  max-width: 80%;
  z-index: 500;
  box-shadow: 0 6px 20px #0004;
}
.notice.bad {
  border-left: 4px solid var(--c-critical);
}
.notice button {
  color: var(--c-rail-accent);
  font-weight: 650;
}
</style>
