<script setup lang="ts">
import { ref } from 'vue'

/**
 * A field without a label of its own, which tells what was typed by change, on
 * Enter and on leaving; Escape takes the old text back. What comes from elsewhere
 * meanwhile does not take it from under the hand.
 */
defineProps<{ value: string | number | undefined }>()
const typed = ref<string>()
const type = (e: Event) => (typed.value = (e.target as HTMLInputElement).value)
const rest = () => (typed.value = undefined)
</script>

<template>
  <input :value="typed ?? value" @input="type" @change="rest" @blur="rest" @keydown.esc="rest" />
</template>
