<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { ref, shallowRef, watch } from 'vue'

// Cells of a spreadsheet, out of a file or pasted.
const props = defineProps<{ pick: string; paste: string; pasted?: string }>()
const emit = defineEmits<{ given: [cells: Blob] }>()
const text = ref(props.pasted ?? '')
const file = shallowRef<File>()
watch([refDebounced(text, 300), file], () => emit('given', file.value ?? new Blob([text.value])), {
  immediate: true,
})
function choose(e: Event) {
  file.value = (e.target as HTMLInputElement).files?.[0]
}
</script>

<template>
  <div class="from">
    <label class="chip">
      {{ file?.name ?? pick }}
      <input type="file" accept=".csv,.txt,.tsv,.xlsx" hidden :aria-label="pick" @change="choose" />
    </label>
    <textarea
      v-if="!file"
      v-model="text"
      class="plain mono"
      rows="3"
      :placeholder="paste"
      :aria-label="paste"
      spellcheck="false" />
  </div>
</template>

<style scoped>
.from {
  display: flex;
  flex: 1;
  gap: 10px;
  align-items: start;
}
textarea {
  flex: 1;
  min-height: 68px;
  font-size: 12px;
}
</style>
