<script setup lang="ts">
import DialogBox from './DialogBox.vue'

// A dialogue over a change in bulk: what is asked for above, what would become of it
// below, and the press that makes it.
defineProps<{
  title: string
  why: string
  problem: string
  busy: boolean
  ready: boolean
  act: string
}>()
const emit = defineEmits<{ apply: []; close: [] }>()
</script>

<template>
  <DialogBox :label="title" @close="emit('close')">
    <form class="box" @submit.prevent="emit('apply')">
      <h2>{{ title }}</h2>
      <p class="quiet">{{ why }}</p>
      <slot />
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
      <div class="lines"><slot name="preview" /></div>
      <div class="foot">
        <v-btn variant="text" @click="emit('close')">{{ $t('common.cancel') }}</v-btn>
        <v-btn type="submit" color="primary" :loading="busy" :disabled="!ready">{{ act }}</v-btn>
      </div>
    </form>
  </DialogBox>
</template>

<style scoped>
.box {
  display: grid;
  gap: 12px;
  padding: 18px 20px;
  width: min(760px, 94vw);
  font-size: 14px;
}
p {
  margin: 0;
}
.lines {
  max-height: 44vh;
  overflow: auto;
}
.lines:not(:empty) {
  border: 1px solid var(--c-line);
}
.foot {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
