<script setup lang="ts">
import { ref, useId, watch } from 'vue'

// A labelled field that gives its value on Enter and on leaving, and takes the
// old one back on Escape. What is wrong with it stands below it. With lines it
// takes several, parted by Shift and Enter.
const props = defineProps<{ label: string; modelValue: string | number | undefined; mono?: boolean; hint?: string; problem?: string; placeholder?: string; type?: string; disabled?: boolean; lines?: boolean }>()
const emit = defineEmits<{ 'update:modelValue': [value: string]; typing: [value: string] }>()
const id = useId()
const text = ref('')
watch(() => props.modelValue, (v) => (text.value = v === undefined || v === null ? '' : String(v)), { immediate: true })

function commit() {
  const before = props.modelValue === undefined || props.modelValue === null ? '' : String(props.modelValue)
  if (text.value !== before) emit('update:modelValue', text.value)
}
function revert() {
  text.value = props.modelValue === undefined ? '' : String(props.modelValue)
}
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <textarea v-if="lines" :id="id" v-model="text" :rows="Math.min(6, text.split('\n').length)" :placeholder="placeholder" spellcheck="false" @keydown.enter.exact.prevent="commit" @keydown.esc.stop="revert" @change="commit" />
    <input
      v-else
      :id="id" v-model="text" :class="{ mono }" :type="type ?? 'text'" :placeholder="placeholder" :disabled="disabled" autocomplete="off" spellcheck="false"
      :aria-invalid="!!problem" @input="emit('typing', text)" @keydown.enter="commit" @keydown.esc.stop="revert" @change="commit"
    />
    <div v-if="problem" class="hint err" role="alert">{{ problem }}</div>
    <div v-else-if="hint" class="hint">{{ hint }}</div>
  </div>
</template>
