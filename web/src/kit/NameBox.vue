<script setup lang="ts">
import { nextTick, ref } from 'vue'

// A button that asks for a name in its own place.
defineProps<{ label: string; hint: string }>()
const emit = defineEmits<{ named: [name: string] }>()
const open = ref(false)
const name = ref('')
const field = ref<HTMLInputElement>()

async function begin() {
  open.value = true
  name.value = ''
  await nextTick()
  field.value?.focus()
}
function done() {
  if (name.value.trim()) emit('named', name.value.trim())
  open.value = false
}
</script>

<template>
  <button v-if="!open" class="chip" @click="begin">{{ label }}</button>
  <input
    v-else
    ref="field"
    v-model="name"
    class="plain"
    :placeholder="hint"
    :aria-label="hint"
    @keydown.enter.prevent="done"
    @keydown.esc.stop="open = false"
    @blur="open = false" />
</template>
