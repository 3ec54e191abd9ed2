<script setup lang="ts">
import { useId } from 'vue'

defineProps<{
  label: string
  modelValue: string | undefined
  options: { value: string; title: string }[]
  hint?: string
  disabled?: boolean
}>()
const emit = defineEmits<{ 'update:modelValue': [value: string] }>()
const id = useId()
</script>

<template>
  <div class="field">
    <label :for="id">{{ label }}</label>
    <select
      :id="id"
      :value="modelValue"
      :disabled="disabled"
      @change="emit('update:modelValue', ($event.target as HTMLSelectElement).value)">
      <option v-for="o in options" :key="o.value" :value="o.value">{{ o.title }}</option>
    </select>
    <div v-if="hint" class="hint">{{ hint }}</div>
  </div>
</template>
