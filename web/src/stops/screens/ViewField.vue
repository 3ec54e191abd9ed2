<script setup lang="ts">
import { shallowRef } from 'vue'
import { api, ask } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import { useProject } from '../../rail/project'

// A choice of the project's views of recorded courses.
defineProps<{ label: string; modelValue: string }>()
const emit = defineEmits<{ 'update:modelValue': [view: string] }>()
const project = useProject()
const views = shallowRef<{ value: string; title: string }[]>([])
void ask(
  api.GET('/api/projects/{project}/trend/views', {
    params: { path: project.path, query: { program: 'draft' } },
  }),
)
  .catch(() => [])
  .then((list) => (views.value = list.map((v) => ({ value: v.id, title: v.name }))))
</script>

<template>
  <FieldSelect
    :label="label"
    :model-value="modelValue"
    :options="[{ value: '', title: '—' }, ...views]"
    @update:model-value="emit('update:modelValue', $event)" />
</template>
