<script setup lang="ts">
import { ref, useId, watch } from 'vue'

// A labelled field that gives its value on Enter and on leaving, and takes the
// old one back on Escape. What is wrong with it stands below it. With lines it
// takes several, parted by Shift and Enter.
const props = defineProps<{
  label: string
  modelValue: string | number | undefined
  mono?: boolean
  hint?: string
  problem?: string
  placeholder?: string
  type?: string
  disabled?: boolean
  lines?: boolean
}>()
const emit = defineEmits<{ 'update:modelValue': [value: string]; typing: [value: string] }>()
const id = useId()
const text = ref('')
const given = () =>
  props.modelValue === undefined || props.modelValue === null ? '' : String(props.modelValue)
// Typed since it was given last: what comes from elsewhere meanwhile must not
// take it from under the hand. Nor does a refusal take away what it is about.
let typed = false
let sent: string | undefined
watch(
  () => props.modelValue,
  () => {
    if (typed || (props.problem && text.value === sent)) return
    text.value = given()
  },
  { immediate: true },
)

function typing() {
  typed = true
  emit('typing', text.value)
}
function commit() {
  typed = false
  if (text.value === given()) return
  sent = text.value
  emit('update:modelValue', text.value)
}
function revert() {
  typed = false
  text.value = given()
}
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <textarea
      v-if="lines"
      :id="id"
      v-model="text"
      :rows="Math.min(6, text.split('\n').length)"
      :placeholder="placeholder"
      spellcheck="false"
      @input="typing"
      @keydown.enter.exact.prevent="commit"
      @keydown.esc.stop="revert"
      @change="commit"
      @blur="typed && revert()" />
    <input
      v-else
      :id="id"
      v-model="text"
      :class="{ mono }"
      :type="type ?? 'text'"
      :placeholder="placeholder"
      :disabled="disabled"
      autocomplete="off"
      spellcheck="false"
      :aria-invalid="!!problem"
      @input="typing"
      @keydown.enter="commit"
      @keydown.esc.stop="revert"
      @change="commit"
      @blur="typed && revert()" />
    <div v-if="problem" class="hint err" role="alert">{{ problem }}</div>
    <div v-else-if="hint" class="hint">{{ hint }}</div>
  </div>
</template>
