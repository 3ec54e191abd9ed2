<script setup lang="ts">
import type { Schemas } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import { useProject } from '../../rail/project'
import ArgsEditor from './ArgsEditor.vue'

// The tabs of a set: each a title, a screen and what that is given.
type Tab = Schemas['Tab']
const props = defineProps<{ modelValue: Tab[]; screen: string }>()
const emit = defineEmits<{ 'update:modelValue': [tabs: Tab[]] }>()
const project = useProject()

const change = (i: number, to: Partial<Tab>) =>
  emit(
    'update:modelValue',
    props.modelValue.map((tab, k) => (k === i ? { ...tab, ...to } : tab)),
  )
const remove = (i: number) =>
  emit(
    'update:modelValue',
    props.modelValue.filter((_, k) => k !== i),
  )
const add = (title: string) => emit('update:modelValue', [...props.modelValue, { title }])
</script>

<template>
  <div class="block">
    <h2>{{ $t('inspector.tabs') }}</h2>
    <div v-for="(tab, i) in modelValue" :key="i" class="sub">
      <FieldText
        :label="$t('editor.title')"
        :model-value="tab.title"
        @update:model-value="change(i, { title: $event })" />
      <FieldSelect
        :label="$t('then.screen')"
        :model-value="tab.screen ?? ''"
        :options="[
          { value: '', title: '—' },
          ...project.screens.map((s) => ({ value: s.id, title: s.name })),
        ]"
        @update:model-value="change(i, { screen: $event || undefined })" />
      <ArgsEditor
        :target="tab.screen ?? ''"
        :on="screen"
        :model-value="tab.args"
        @update:model-value="change(i, { args: $event })" />
      <button class="chip" @click="remove(i)">{{ $t('common.delete') }}</button>
    </div>
    <button class="chip" @click="add($t('inspector.tab') + ' ' + (modelValue.length + 1))">
      {{ $t('inspector.addTab') }}
    </button>
  </div>
</template>
