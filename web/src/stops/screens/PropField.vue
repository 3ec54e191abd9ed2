<script setup lang="ts">
import { mdiFunctionVariant } from '@mdi/js'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { api, ask, type Prop } from '../../api/client'
import ColourField from '../../kit/ColourField.vue'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import FormulaInput from '../../kit/FormulaInput.vue'
import { useCatalogue } from '../../rail/catalogue'
import { useProject } from '../../rail/project'
import TagField from '../../tags/TagField.vue'
import BookFieldSelect from '../../recipes/BookFieldSelect.vue'
import ColumnsField from './ColumnsField.vue'
import NamedField from './NamedField.vue'
import PictureField from './PictureField.vue'

// One property: its plain value, or the formula that drives it.
const props = defineProps<{
  prop: Prop
  value: unknown
  formula: string | undefined
  differs: boolean
  screen: string
  args: Record<string, string>
  /** The book of recipes of the element, for a field of it. */
  book?: string
}>()
const emit = defineEmits<{ set: [value: unknown]; bind: [formula: string] }>()
const project = useProject()
const catalogue = useCatalogue()
const binding = ref(!!props.formula)
watch(
  () => props.formula,
  (f) => (binding.value = !!f),
)
const label = computed(() => catalogue.propTitle(props.prop))
const wants = computed(() => (props.prop.type === 'optional' ? 'number' : props.prop.type))
const asText = computed(() =>
  props.differs && props.value === undefined ? undefined : (props.value as string | number | undefined),
)

// A symbol or what is repeated is drawn for that; the others open or lie within.
const screens = computed(() =>
  props.prop.name === 'symbol'
    ? project.screens.filter((s) => s.role === 'symbol')
    : project.screens.filter((s) => s.role !== 'symbol'),
)
/** What the controllers tell of, each name once. */
const parts = computed(() => [
  ...new Set(
    project.devices.flatMap((d) => [
      ...(d.protocol === 'opcua' ? ['Server'] : []),
      ...(d.conditions ?? []).map((c) => c.name),
    ]),
  ),
])
const folders = shallowRef<{ value: string; title: string }[]>([])
onMounted(async () => {
  if (props.prop.type !== 'folder') return
  const points = await ask(
    api.GET('/api/projects/{project}/screens/{id}/points', {
      params: { path: { ...project.path, id: props.screen } },
    }),
  ).catch(() => [])
  const list = await ask(
    api.GET('/api/projects/{project}/folders', { params: { path: project.path } }),
  ).catch(() => [])
  folders.value = [
    ...points.filter((x) => x.kind === 'equipment').map((x) => ({ value: x.id, title: x.path })),
    ...list.map((f) => ({ value: f.id, title: f.path })),
  ]
})

function number(text: string) {
  const v = Number(text.replace(',', '.'))
  if (Number.isFinite(v)) emit('set', v)
}
function toggle() {
  if (binding.value && props.formula) emit('bind', '')
  binding.value = !binding.value
}
</script>

<template>
  <div class="prop">
    <div class="what">
      <FormulaInput
        v-if="binding"
        :label="label"
        :model-value="formula ?? ''"
        :wants="wants"
        :screen="screen"
        :args="args"
        :placeholder="$t('inspector.formula')"
        @update:model-value="emit('bind', $event)" />
      <TagField
        v-else-if="prop.type === 'tag'"
        :label="label"
        :model-value="(value as string) ?? ''"
        :screen="screen"
        @update:model-value="emit('set', $event || undefined)" />
      <FieldSelect
        v-else-if="prop.type === 'screen'"
        :label="label"
        :model-value="(value as string) ?? ''"
        :options="[{ value: '', title: '—' }, ...screens.map((s) => ({ value: s.id, title: s.name }))]"
        @update:model-value="emit('set', $event || undefined)" />
      <FieldSelect
        v-else-if="prop.type === 'area'"
        :label="label"
        :model-value="(value as string) ?? ''"
        :options="[
          { value: '', title: $t('alarm.allAreas') },
          ...(project.overview?.site.areas ?? []).map((a) => ({ value: a.id, title: a.name })),
        ]"
        @update:model-value="emit('set', $event)" />
      <ColumnsField
        v-else-if="prop.name === 'columns' && prop.type === 'text'"
        :label="label"
        :model-value="(value as string) ?? ''"
        @update:model-value="emit('set', $event)" />
      <FieldSelect
        v-else-if="prop.type === 'device'"
        :label="label"
        :model-value="(value as string) ?? ''"
        :options="[
          { value: '', title: '—' },
          ...project.devices.map((d) => ({ value: d.id, title: d.name })),
        ]"
        @update:model-value="emit('set', $event || undefined)" />
      <FieldSelect
        v-else-if="prop.type === 'part'"
        :label="label"
        :model-value="(value as string) ?? ''"
        :options="[{ value: '', title: '—' }, ...parts.map((name) => ({ value: name, title: name }))]"
        @update:model-value="emit('set', $event || undefined)" />
      <FieldSelect
        v-else-if="prop.type === 'type'"
        :label="label"
        :model-value="(value as string) ?? ''"
        :options="[{ value: '', title: '—' }, ...project.types.map((x) => ({ value: x.id, title: x.name }))]"
        @update:model-value="emit('set', $event || undefined)" />
      <FieldSelect
        v-else-if="prop.type === 'folder'"
        :label="label"
        :model-value="(value as string) ?? ''"
        :options="[{ value: '', title: '—' }, ...folders]"
        @update:model-value="emit('set', $event || undefined)" />
      <FieldSelect
        v-else-if="prop.type === 'parameter'"
        :label="label"
        :model-value="(value as string) ?? ''"
        :options="[
          { value: '', title: '—' },
          ...(project.screens.find((s) => s.id === screen)?.params ?? []).map((x) => ({
            value: x.id,
            title: x.title || x.name,
          })),
        ]"
        @update:model-value="emit('set', $event || undefined)" />
      <NamedField
        v-else-if="prop.type === 'view' || prop.type === 'log' || prop.type === 'book'"
        :what="`${prop.type}s`"
        :label="label"
        :model-value="(value as string) ?? ''"
        @update:model-value="emit('set', $event || undefined)" />
      <BookFieldSelect
        v-else-if="prop.type === 'field'"
        :label="label"
        :book="book ?? ''"
        :model-value="(value as string) ?? ''"
        @update:model-value="emit('set', $event || undefined)" />
      <PictureField
        v-else-if="prop.type === 'picture'"
        :label="label"
        :model-value="(value as string) ?? ''"
        @update:model-value="emit('set', $event || undefined)" />
      <FieldSelect
        v-else-if="prop.type === 'style'"
        :label="label"
        :model-value="(value as string) ?? ''"
        :options="[{ value: '', title: '—' }, ...project.styles.map((x) => ({ value: x.id, title: x.name }))]"
        @update:model-value="emit('set', $event || undefined)" />
      <FieldText
        v-else-if="prop.type === 'optional'"
        :label="label"
        mono
        :model-value="asText"
        :placeholder="differs ? $t('inspector.differs') : $t('inspector.fromTag')"
        @update:model-value="$event.trim() ? number($event) : emit('set', undefined)" />
      <FieldCheck
        v-else-if="prop.type === 'bool'"
        :label="label"
        :model-value="value as boolean"
        @update:model-value="emit('set', $event)" />
      <FieldSelect
        v-else-if="prop.type === 'choice'"
        :label="label"
        :model-value="value as string"
        :options="(prop.choices ?? []).map((c) => ({ value: c, title: catalogue.choiceTitle(c) }))"
        @update:model-value="emit('set', $event)" />
      <ColourField
        v-else-if="prop.type === 'colour'"
        :label="label"
        :model-value="value as string | undefined"
        :differs="differs"
        @update:model-value="emit('set', $event)" />
      <FieldText
        v-else-if="prop.type === 'number'"
        :label="label"
        mono
        :model-value="asText"
        :placeholder="differs ? $t('inspector.differs') : ''"
        @update:model-value="number" />
      <FieldText
        v-else
        :lines="prop.type === 'template' && prop.name === 'text'"
        :label="label"
        :model-value="asText"
        :placeholder="differs ? $t('inspector.differs') : ''"
        :hint="prop.type === 'template' ? $t('inspector.template') : ''"
        @update:model-value="emit('set', $event)" />
    </div>
    <button
      v-if="prop.bindable"
      class="bare fx"
      :class="{ on: binding, level: !binding && prop.type === 'bool' }"
      :title="binding ? $t('inspector.unbind') : $t('inspector.bind')"
      :aria-label="(binding ? $t('inspector.unbind') : $t('inspector.bind')) + ' ' + label"
      @click="toggle">
      <v-icon :icon="mdiFunctionVariant" size="18" />
    </button>
  </div>
</template>

<style scoped>
.prop {
  display: flex;
  gap: 6px;
  align-items: flex-start;
}
.what {
  flex: 1;
  min-width: 0;
}
.fx {
  margin-top: 20px;
  padding: 6px;
  border-radius: 4px;
  color: var(--c-quiet);
}
.fx.level {
  margin-top: 0;
}
.fx.on {
  color: var(--c-spruce);
  background: var(--c-tint);
}
</style>
