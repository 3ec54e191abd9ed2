<script setup lang="ts">
import { mdiContentDuplicate, mdiTrashCanOutline } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Prop } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import FormulaInput from '../../kit/FormulaInput.vue'
import InspectorPane from '../../kit/InspectorPane.vue'
import NameBox from '../../kit/NameBox.vue'
import { useCatalogue } from '../../rail/catalogue'
import { freshId, useProject } from '../../rail/project'
import ArgsEditor from './ArgsEditor.vue'
import PropField from './PropField.vue'
import StatesEditor from './StatesEditor.vue'
import { matters, screenOf } from './facts'
import RolePick from './RolePick.vue'
import RowsEditor from './RowsEditor.vue'
import TabsEditor from './TabsEditor.vue'
import ThenEditor from './ThenEditor.vue'
import type { Editor } from './useEditor'

// What the selected elements share, and what differs; an edit goes to all.
const props = defineProps<{ editor: Editor; args: Record<string, string> }>()
const emit = defineEmits<{ pose: [id: string, prop: string, value: unknown] }>()
const screen = computed(() => props.editor.doc.value?.id ?? '')
const project = useProject()
const catalogue = useCatalogue()
const { t } = useI18n()
const items = computed(() => props.editor.selected.value)
const kinds = computed(() => [...new Set(items.value.map(([, e]) => e.kind))])
const title = computed(() =>
  items.value.length === 1
    ? items.value[0]![1].name || catalogue.kindTitle(kinds.value[0]!)
    : t('inspector.many', { n: items.value.length }),
)
const shared = computed<Prop[]>(() => {
  const first = catalogue.kind(kinds.value[0]!)?.props ?? []
  return first.filter(
    (p) => kinds.value.every((k) => catalogue.prop(k, p.name)?.type === p.type) && applies(p),
  )
})
const findings = computed(() =>
  project.findings.filter(
    (f) =>
      f.id === props.editor.doc.value?.id &&
      items.value.some(([id]) => f.place.startsWith(`/elements/${id}/`) || f.place === `/elements/${id}`),
  ),
)

const applies = (p: Prop) =>
  items.value.every(([, e]) => {
    const kind = catalogue.kind(e.kind)
    return !kind || matters(kind, p, e)
  })
const one = (f: (e: (typeof items.value)[0][1]) => unknown) => {
  const all = items.value.map(([, e]) => f(e) as unknown)
  return all.every((v) => JSON.stringify(v) === JSON.stringify(all[0])) ? all[0] : undefined
}
const differs = (f: (e: (typeof items.value)[0][1]) => unknown) =>
  new Set(items.value.map(([, e]) => JSON.stringify(f(e)))).size > 1
function number(field: 'x' | 'y' | 'w' | 'h' | 'angle', text: string) {
  const v = Number(text.replace(',', '.'))
  if (Number.isFinite(v))
    void props.editor.set(
      t('editor.placedAt'),
      items.value.map(([id]) => [id, field, v]),
    )
}
function setProp(p: Prop, v: unknown) {
  void props.editor.set(
    t('inspector.set', { what: p.title }),
    items.value.map(([id]) => [id, 'props/' + p.name, v]),
  )
}
function setBind(p: Prop, formula: string) {
  void props.editor.set(
    t('inspector.bound', { what: p.title }),
    items.value.map(([id]) => [id, 'bind/' + p.name, formula.trim() || undefined]),
  )
}
const single = computed(() => (items.value.length === 1 ? items.value[0]![1] : undefined))
const setField = (field: string, v: unknown) =>
  props.editor.set(
    t('inspector.set', { what: field }),
    items.value.map(([id]) => [id, field, v]),
  )
const has = (field: string) => !!single.value && !!catalogue.kind(single.value.kind)?.fields?.includes(field)
/** The screen that the element shows or opens, whose parameters it gives. */
const target = computed(() => (single.value ? screenOf(catalogue.kind(single.value.kind), single.value) : ''))
// Looking only: a bound number or BOOL takes a value here, and nothing is written.
const posing = ref(false)
const poses = computed(() =>
  single.value
    ? [
        ...shared.value.filter((p) => p.bindable && (single.value!.bind?.[p.name] || false)),
        ...(catalogue.kind(single.value.kind)?.live ?? [])
          .filter((l) => single.value!.props?.[l.from])
          .map((l) => ({ name: l.prop, title: l.prop, type: l.as }) as Prop),
      ]
    : [],
)
watch(
  () => items.value[0]?.[0],
  () => (posing.value = false),
)
function pose(p: Prop, v: unknown) {
  emit('pose', items.value[0]![0], p.name, v)
}
function endPose() {
  for (const p of poses.value) pose(p, undefined)
  posing.value = false
}
/** What makes the look of a text. */
const TEXT = ['size', 'colour', 'align', 'bold', 'weight', 'italic', 'font', 'leading', 'vertical']
/** Keeps the look of the element's text by name, and lets the element take it from there. */
async function keepStyle(name: string) {
  const [id, e] = items.value[0]!
  const of = (p: string) => e.props?.[p] ?? catalogue.prop(e.kind, p)?.default
  const fresh = freshId('style')
  const value = { name, ...Object.fromEntries(TEXT.map((p) => [p, of(p) ?? undefined])) }
  if (await project.edit(t('style.kept', { name }), [{ kind: 'style', id: fresh, path: '', value }])) return
  await props.editor.set(t('style.kept', { name }), [
    [id, 'props/style', fresh],
    ...TEXT.map((p) => [id, 'props/' + p, undefined] as [string, string, unknown]),
  ])
}
const placeBindings = computed(() =>
  catalogue.places.filter(
    (p) => single.value && (single.value.bind?.[p.name] !== undefined || moreBinding.value === p.name),
  ),
)
const moreBinding = ref('')
const name = (v: string) =>
  props.editor.set(
    t('inspector.named'),
    items.value.map(([id]) => [id, 'name', v || undefined]),
  )
</script>

<template>
  <InspectorPane :title="title" :note="kinds.length === 1 ? catalogue.kindTitle(kinds[0]!) : ''">
    <template #tools>
      <button
        class="bare"
        :title="$t('keys.duplicate')"
        :aria-label="$t('keys.duplicate')"
        @click="editor.duplicate()">
        <v-icon :icon="mdiContentDuplicate" size="18" />
      </button>
      <button
        class="bare"
        :title="$t('common.delete')"
        :aria-label="$t('common.delete')"
        @click="editor.remove()">
        <v-icon :icon="mdiTrashCanOutline" size="18" />
      </button>
    </template>
    <div v-for="f in findings" :key="f.rule + f.place" class="finding" :class="f.severity">
      {{ f.says }}
      <span class="quiet">{{ f.mend }}</span>
    </div>
    <div class="fields four">
      <FieldText
        v-for="k in ['x', 'y', 'w', 'h'] as const"
        :key="k"
        :label="k.toUpperCase()"
        mono
        :model-value="one((e) => e[k]) as number"
        :placeholder="differs((e) => e[k]) ? $t('inspector.differs') : ''"
        @update:model-value="number(k, $event)" />
    </div>
    <div class="fields four">
      <FieldText
        :label="$t('inspector.angle')"
        mono
        :model-value="one((e) => e.angle ?? 0) as number"
        @update:model-value="number('angle', $event)" />
    </div>
    <FieldText
      v-if="items.length === 1"
      :label="$t('common.name')"
      :model-value="items[0]![1].name"
      @update:model-value="name" />
    <PropField
      v-for="p in shared"
      :key="p.name"
      :prop="p"
      :value="one((e) => e.props?.[p.name] ?? catalogue.prop(e.kind, p.name)?.default)"
      :differs="differs((e) => [e.props?.[p.name], e.bind?.[p.name]])"
      :formula="one((e) => e.bind?.[p.name]) as string | undefined"
      :screen="screen"
      :args="args"
      :book="one((e) => e.props?.book) as string | undefined"
      @set="setProp(p, $event)"
      @bind="setBind(p, $event)" />
    <template v-if="single">
      <ArgsEditor
        v-if="target"
        :target="target"
        :on="screen"
        :model-value="single.args"
        :skip="catalogue.kind(single.kind)?.repeats"
        @update:model-value="setField('args', $event)" />
      <NameBox
        v-if="catalogue.prop(single.kind, 'style')"
        :label="$t('style.keep')"
        :hint="$t('style.name')"
        @named="keepStyle" />
      <TabsEditor
        v-if="has('tabs')"
        :model-value="single.tabs ?? []"
        :screen="screen"
        @update:model-value="setField('tabs', $event)" />
      <RowsEditor
        v-if="has('tags')"
        :model-value="single.tags ?? []"
        :screen="screen"
        @update:model-value="setField('tags', $event)" />
      <ThenEditor
        v-if="has('then')"
        :model-value="single.then ?? []"
        :screen="screen"
        :args="args"
        @update:model-value="setField('then', $event)" />
      <div v-for="p in placeBindings" :key="p.name">
        <FormulaInput
          :label="catalogue.propTitle(p)"
          :model-value="single.bind?.[p.name] ?? ''"
          wants="number"
          :screen="screen"
          :args="args"
          @update:model-value="setBind(p, $event)" />
      </div>
      <FieldSelect
        :label="$t('inspector.bindPlace')"
        model-value=""
        :options="[
          { value: '', title: '…' },
          ...catalogue.places
            .filter((p) => !single!.bind?.[p.name])
            .map((p) => ({ value: p.name, title: catalogue.propTitle(p) })),
        ]"
        @update:model-value="moreBinding = $event" />
      <StatesEditor
        :key="items[0]![0]"
        :model-value="single.states"
        :kind="single.kind"
        :screen="screen"
        :args="args"
        :element="(single.props ?? {}) as Record<string, unknown>"
        @update:model-value="setField('states', $event)" />
      <RolePick
        v-if="has('operators')"
        :label="$t('editor.mayOperate')"
        :chosen="single.operators ?? []"
        @set="setField('operators', $event)" />
      <div v-if="poses.length" class="block">
        <div class="posehead">
          <h2>{{ $t('inspector.pose') }}</h2>
          <button class="chip" :aria-pressed="posing" @click="posing ? endPose() : (posing = true)">
            {{ posing ? $t('inspector.poseEnd') : $t('inspector.poseBegin') }}
          </button>
        </div>
        <template v-if="posing">
          <p class="quiet small">{{ $t('inspector.poseWhy') }}</p>
          <label v-for="p in poses" :key="p.name" class="poserow">
            <span>{{ catalogue.propTitle(p) }}</span>
            <input
              v-if="p.type === 'bool'"
              type="checkbox"
              @change="pose(p, ($event.target as HTMLInputElement).checked)" />
            <input
              v-else-if="p.type === 'number'"
              type="range"
              :min="Number(single.props?.low ?? 0)"
              :max="Number(single.props?.high ?? 100)"
              step="any"
              @input="pose(p, Number(($event.target as HTMLInputElement).value))" />
            <input v-else class="plain" @input="pose(p, ($event.target as HTMLInputElement).value)" />
          </label>
        </template>
      </div>
    </template>
  </InspectorPane>
</template>

<style scoped>
.four {
  grid-template-columns: repeat(4, 1fr);
  gap: 6px;
}
.posehead {
  display: flex;
  justify-content: space-between;
}
.poserow {
  display: grid;
  grid-template-columns: 110px 1fr;
  align-items: center;
}
.small {
  font-size: 12px;
  margin: 0;
}
</style>
