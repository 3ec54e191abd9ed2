<script setup lang="ts">
import { ref, useId, watch } from 'vue'
import type { Folder } from './useFolders'

// A folder by its path, of those that there are; empty for none.
const props = defineProps<{ label: string; modelValue: string; folders: Folder[] }>()
const emit = defineEmits<{ 'update:modelValue': [id: string] }>()
const id = useId()
const text = ref('')
const wrong = ref(false)
watch(
  [() => props.modelValue, () => props.folders],
  () => {
    text.value = props.folders.find((f) => f.id === props.modelValue)?.path ?? ''
    wrong.value = !!props.modelValue && !!props.folders.length && !text.value
  },
  { immediate: true },
)
function commit() {
  const path = text.value.trim().toLowerCase()
  const found = props.folders.find((f) => f.path.toLowerCase() === path)
  wrong.value = !!path && !found
  if (!path || found) emit('update:modelValue', found?.id ?? '')
}
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <input
      :id="id"
      v-model="text"
      class="mono"
      :list="id + 'l'"
      autocomplete="off"
      spellcheck="false"
      :aria-invalid="wrong"
      @change="commit" />
    <datalist :id="id + 'l'"><option v-for="f in folders" :key="f.id" :value="f.path" /></datalist>
    <div v-if="wrong" class="hint err" role="alert">{{ $t('rules.noFolder', { path: text }) }}</div>
  </div>
</template>
