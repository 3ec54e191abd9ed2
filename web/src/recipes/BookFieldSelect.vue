<script setup lang="ts">
import { computed } from 'vue'
import FieldSelect from '../kit/FieldSelect.vue'
import { useProject } from '../rail/project'
import { useBooks } from './useBooks'

// A choice of the fields of a book of recipes.
const props = defineProps<{ label: string; modelValue: string; book: string }>()
const emit = defineEmits<{ 'update:modelValue': [id: string] }>()
const project = useProject()
const { books } = useBooks(
  () => project.id,
  'draft',
  () => project.versionOf('book'),
)
const options = computed(() => [
  { value: '', title: '—' },
  ...(books.value.find((b) => b.id === props.book)?.fields ?? []).map((f) => ({
    value: f.id,
    title: [f.group, f.title].filter(Boolean).join(' › '),
  })),
])
</script>

<template>
  <FieldSelect
    :label="label"
    :model-value="modelValue"
    :options="options"
    @update:model-value="emit('update:modelValue', $event)" />
</template>
