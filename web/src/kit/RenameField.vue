<script setup lang="ts">
import { onMounted, ref } from 'vue'

// A name that is changed in its own place: Enter or leaving takes it, once;
// Escape leaves it as it was.
const props = defineProps<{ name: string; label: string }>()
const emit = defineEmits<{ named: [name: string]; done: [] }>()
const field = ref<HTMLInputElement>()
const text = ref(props.name)
let over = false

const began = performance.now()
function take() {
  field.value?.focus()
  field.value?.select()
}
onMounted(take)
function end(keep: boolean) {
  if (over) return
  over = true
  const name = text.value.trim()
  if (keep && name && name !== props.name) emit('named', name)
  emit('done')
}
/** Leaving it ends it; the menu that it was called from takes the focus to its button once. */
function left() {
  if (performance.now() - began > 300) end(true)
  else window.setTimeout(() => field.value?.focus())
}
</script>

<template>
  <input
    ref="field"
    v-model="text"
    class="plain"
    :aria-label="label"
    @keydown.enter.stop="end(true)"
    @keydown.esc.stop="end(false)"
    @blur="left" />
</template>
