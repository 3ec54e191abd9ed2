<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import type { Schemas } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import FormulaInput from '../../kit/FormulaInput.vue'
import { useCatalogue } from '../../rail/catalogue'
import { useProject } from '../../rail/project'
import TagField from '../../tags/TagField.vue'
import ArgsEditor from './ArgsEditor.vue'
import NamedField from './NamedField.vue'

type Action = Schemas['Action']

// What a button does after its first action, in order, each with a condition.
const props = defineProps<{ modelValue: Action[]; screen: string; args: Record<string, string> }>()
const emit = defineEmits<{ 'update:modelValue': [list: Action[] | undefined] }>()
const project = useProject()
const catalogue = useCatalogue()
const kinds = [
  'set',
  'toggle',
  'step',
  'open',
  'close',
  'record',
  'log',
  'diagnose',
  'language',
  'param',
  'signin',
]
const logActs = ['start', 'stop', 'take', 'mark', 'export', 'finish', 'clear']
const save = (list: Action[]) => emit('update:modelValue', list.length ? list : undefined)
const alter = (i: number, a: Partial<Action>) =>
  save(props.modelValue.map((x, k) => (k === i ? { ...x, ...a } : x)))
const params = () => project.screens.find((s) => s.id === props.screen)?.params ?? []
</script>

<template>
  <div class="then">
    <h2>{{ $t('then.title') }}</h2>
    <div v-for="(a, i) in modelValue" :key="i" class="step">
      <div class="row">
        <FieldSelect
          :label="`${i + 2}.`"
          :model-value="a.do"
          :options="kinds.map((k) => ({ value: k, title: catalogue.choiceTitle(k) }))"
          @update:model-value="alter(i, { do: $event })" />
        <button
          class="bare"
          :aria-label="$t('common.delete')"
          @click="save(modelValue.filter((_, k) => k !== i))">
          <v-icon :icon="mdiClose" size="16" />
        </button>
      </div>
      <TagField
        v-if="['set', 'toggle', 'step'].includes(a.do)"
        :label="$t('then.tag')"
        :model-value="a.tag ?? ''"
        :screen="screen"
        @update:model-value="alter(i, { tag: $event })" />
      <FieldText
        v-if="a.do === 'set'"
        :label="$t('then.value')"
        mono
        :model-value="a.value"
        @update:model-value="alter(i, { value: $event })" />
      <FieldText
        v-if="a.do === 'step'"
        :label="$t('then.by')"
        mono
        :model-value="a.by"
        @update:model-value="alter(i, { by: Number($event) || 0 })" />
      <template v-if="a.do === 'open'">
        <FieldSelect
          :label="$t('then.screen')"
          :model-value="a.screen ?? ''"
          :options="[
            { value: '', title: '—' },
            ...project.screens.map((s) => ({ value: s.id, title: s.name })),
          ]"
          @update:model-value="alter(i, { screen: $event })" />
        <ArgsEditor
          :target="a.screen ?? ''"
          :on="screen"
          :model-value="a.args"
          @update:model-value="alter(i, { args: $event })" />
      </template>
      <FieldText
        v-if="a.do === 'record'"
        :label="$t('then.text')"
        :model-value="a.text"
        @update:model-value="alter(i, { text: $event })" />
      <template v-if="a.do === 'log'">
        <NamedField
          what="logs"
          :label="$t('then.log')"
          :model-value="a.log ?? ''"
          @update:model-value="alter(i, { log: $event })" />
        <FieldSelect
          :label="$t('then.logDoes')"
          :model-value="a.logDoes ?? ''"
          :options="[
            { value: '', title: '—' },
            ...logActs.map((k) => ({ value: k, title: catalogue.choiceTitle(k) })),
          ]"
          @update:model-value="alter(i, { logDoes: $event })" />
        <FieldText
          v-if="a.logDoes === 'mark'"
          :label="$t('then.text')"
          :model-value="a.text"
          @update:model-value="alter(i, { text: $event })" />
      </template>
      <FieldSelect
        v-if="a.do === 'diagnose'"
        :label="$t('then.device')"
        :model-value="a.device ?? ''"
        :options="project.devices.map((d) => ({ value: d.id, title: d.name }))"
        @update:model-value="alter(i, { device: $event })" />
      <FieldSelect
        v-if="a.do === 'language'"
        :label="$t('then.language')"
        :model-value="a.language ?? ''"
        :options="(project.overview?.site.languages ?? []).map((l) => ({ value: l, title: $t('lang.' + l) }))"
        @update:model-value="alter(i, { language: $event })" />
      <template v-if="a.do === 'param'">
        <FieldSelect
          :label="$t('then.param')"
          :model-value="a.param ?? ''"
          :options="params().map((p) => ({ value: p.id, title: p.name }))"
          @update:model-value="alter(i, { param: $event })" />
        <FieldText
          :label="$t('then.value')"
          :model-value="a.value"
          @update:model-value="alter(i, { value: $event })" />
      </template>
      <FormulaInput
        :label="$t('then.when')"
        :model-value="a.when ?? ''"
        wants="bool"
        :screen="screen"
        :args="args"
        :placeholder="$t('then.always')"
        @update:model-value="alter(i, { when: $event || undefined })" />
    </div>
    <button class="chip" @click="save([...modelValue, { do: 'set' }])">{{ $t('then.add') }}</button>
  </div>
</template>

<style scoped>
.then {
  display: grid;
  gap: 10px;
  border-top: 1px solid var(--c-line);
  padding-top: 10px;
}
h2 {
  font-size: 14px;
}
.step {
  display: grid;
  gap: 8px;
  border-left: 3px solid var(--c-line);
  padding-left: 10px;
}
.row {
  display: flex;
  gap: 6px;
  align-items: flex-end;
}
.row > :first-child {
  flex: 1;
}
</style>
