<script setup lang="ts">
import { nextTick, ref } from 'vue'

// A button that asks for a name in its own place.
defineProps<{ label: string; hint: string }>()
const emit = defineEmits<{ named: [name: string] }>()
const open = ref(false)
const name = ref('')
const field = ref<HTMLInputElement>()
const button = ref<HTMLButtonElement>()

async function begin() {
  open.value = true
  name.value = ''
  await nextTick()
  field.value?.focus()
}
/** Ends by a key: the focus goes back to the button once the key is up, so that it does not press it. */
function end() {
  open.value = false
  window.addEventListener('keyup', () => button.value?.focus(), { once: true })
}
function done() {
  if (name.value.trim()) emit('named', name.value.trim())
  end()
}
</script>

<template>
  <button v-if="!open" ref="button" class="chip" @click="begin">{{ label }}</button>
  <input
    v-else
    ref="field"
    v-model="name"
    class="plain"
    :placeholder="hint"
    :aria-label="hint"
    @keydown.enter.prevent="done"
    @keydown.esc.stop="end"
    @blur="open = false" />
</template>
