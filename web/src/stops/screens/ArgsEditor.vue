<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import ColourField from '../../kit/ColourField.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import { useProject } from '../../rail/project'
import TagField from '../../tags/TagField.vue'

// What is given for the parameters of a screen; the picker offers what fits.
const props = defineProps<{
  target: string
  on: string
  modelValue: Record<string, string> | undefined
  own?: Schemas['Param'][]
  skip?: boolean
}>()
const emit = defineEmits<{ 'update:modelValue': [args: Record<string, string> | undefined] }>()
const project = useProject()
const params = computed(() => {
  const all = props.own ?? project.screens.find((s) => s.id === props.target)?.params ?? []
  // A repeat gives the first equipment or tag itself.
  const first = props.skip ? all.findIndex((p) => p.kind === 'equipment' || p.kind === 'tag') : -1
  return all.filter((_, i) => i !== first)
})
const pieces = shallowRef<Schemas['PieceInfo'][]>([])
const points = shallowRef<Schemas['ScreenPoint'][]>([])
watch(
  [() => project.versionOf('screen', 'type', 'equipment', 'paths'), () => props.on],
  async () => {
    pieces.value = await ask(
      api.GET('/api/projects/{project}/equipment', { params: { path: project.path } }),
    ).catch(() => [])
    points.value = props.on
      ? await ask(
          api.GET('/api/projects/{project}/screens/{id}/points', {
            params: { path: { ...project.path, id: props.on } },
          }),
        ).catch(() => [])
      : []
  },
  { immediate: true },
)
const options = (p: Schemas['Param']) => [
  { value: '', title: p.default && !props.modelValue?.[p.id] ? nameOf(p.default) : '—' },
  ...points.value
    .filter((x) => x.kind === 'equipment' && x.type === p.type)
    .map((x) => ({ value: x.id, title: x.path })),
  ...pieces.value.filter((x) => x.type === p.type).map((x) => ({ value: x.id, title: x.path })),
]
const nameOf = (id: string) => pieces.value.find((x) => x.id === id)?.path ?? id
function set(id: string, v: string) {
  const next = { ...props.modelValue, [id]: v }
  if (!v) delete next[id]
  emit('update:modelValue', Object.keys(next).length ? next : undefined)
}
</script>

<template>
  <div v-if="params.length" class="args">
    <template v-for="p in params" :key="p.id">
      <FieldSelect
        v-if="p.kind === 'equipment'"
        :label="p.title || p.name"
        :model-value="modelValue?.[p.id] ?? ''"
        :options="options(p)"
        @update:model-value="set(p.id, $event)" />
      <TagField
        v-else-if="p.kind === 'tag'"
        :label="p.title || p.name"
        :model-value="modelValue?.[p.id] ?? ''"
        :screen="on"
        @update:model-value="set(p.id, $event)" />
      <ColourField
        v-else-if="p.kind === 'colour'"
        :label="p.title || p.name"
        :model-value="modelValue?.[p.id] || p.default"
        @update:model-value="set(p.id, $event)" />
      <FieldText
        v-else
        :label="p.title || p.name"
        :model-value="modelValue?.[p.id] ?? ''"
        :placeholder="p.default"
        @update:model-value="set(p.id, $event)" />
    </template>
  </div>
</template>

<style scoped>
.args {
  display: grid;
  gap: 10px;
  border-left: 3px solid var(--c-spruce);
  padding-left: 10px;
}
</style>
