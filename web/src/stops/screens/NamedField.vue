<script setup lang="ts">
import FieldSelect from '../../kit/FieldSelect.vue'
import { useNamed } from '../../rail/named'

// A choice of the project's views of recorded courses, of its logs or its books.
const props = defineProps<{ label: string; modelValue: string; what: 'views' | 'logs' | 'books' }>()
const emit = defineEmits<{ 'update:modelValue': [id: string] }>()
const list = useNamed(props.what)
</script>

<template>
  <FieldSelect
    :label="label"
    :model-value="modelValue"
    :options="[{ value: '', title: '—' }, ...list]"
    @update:model-value="emit('update:modelValue', $event)" />
</template>
