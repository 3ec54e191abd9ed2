<script setup lang="ts">
import { computed } from 'vue'
import TagField from './TagField.vue'

// Several tags, each in a field of its own; the last one is empty and takes the next.
const props = defineProps<{ label: string; modelValue: readonly string[]; most: number }>()
const emit = defineEmits<{ 'update:modelValue': [ids: string[]] }>()
const fields = computed(() =>
  props.modelValue.length < props.most ? [...props.modelValue, ''] : [...props.modelValue],
)
function put(at: number, id: string) {
  const next = fields.value.map((was, i) => (i === at ? id : was)).filter(Boolean)
  emit('update:modelValue', [...new Set(next)])
}
</script>

<template>
  <TagField
    v-for="(id, i) in fields"
    :key="i"
    :label="`${label} ${i + 1}`"
    :model-value="id"
    @update:model-value="put(i, $event)" />
</template>
