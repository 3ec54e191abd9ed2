<script setup lang="ts">
import TagField from '../../tags/TagField.vue'

// The tags of a table, one below the other; the last field takes one more.
const props = defineProps<{ modelValue: string[]; screen: string }>()
const emit = defineEmits<{ 'update:modelValue': [ids: string[]] }>()

const set = (i: number, id: string) =>
  emit('update:modelValue', [
    ...props.modelValue.slice(0, i),
    ...(id ? [id] : []),
    ...props.modelValue.slice(i + 1),
  ])
</script>

<template>
  <div class="block">
    <h2>{{ $t('inspector.rows') }}</h2>
    <TagField
      v-for="(id, i) in [...modelValue, '']"
      :key="i + id"
      :label="`${i + 1}.`"
      :model-value="id"
      :screen="screen"
      @update:model-value="set(i, $event)" />
  </div>
</template>
