<script setup lang="ts">
import { mdiTrashCanOutline } from '@mdi/js'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import ColourField from '../../kit/ColourField.vue'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import InspectorPane from '../../kit/InspectorPane.vue'
import UsesList from '../../kit/UsesList.vue'
import { colour } from '../../theme'
import type { Schemas } from '../../api/client'
import { freshId, useProject } from '../../rail/project'
import { useWhere } from '../../rail/where'
import ArgsEditor from './ArgsEditor.vue'
import { saveScreen } from './picture'
import type { Editor } from './useEditor'

const props = defineProps<{ editor: Editor }>()
const emit = defineEmits<{ substitute: [] }>()
type Param = Schemas['Param']
type Entry = Schemas['Entry']
const project = useProject()
const { where } = useWhere()
const router = useRouter()
const { t } = useI18n()
const doc = computed(() => props.editor.latest.value!)
const findings = computed(() =>
  project.findings.filter((f) => f.id === doc.value.id && f.severity !== 'note'),
)

function set(field: string, value: unknown) {
  return project.edit(t('editor.screenEdited', { name: doc.value.name }), [
    { kind: 'screen', id: doc.value.id, path: '/' + field, value: value === '' ? undefined : value },
  ])
}
const params = computed(() => doc.value.params ?? [])
const setParams = (list: Param[]) => set('params', list.length ? list : undefined)
const alter = (i: number, p: Partial<Param>) =>
  setParams(params.value.map((x, k) => (k === i ? clean({ ...x, ...p }) : x)))
const clean = (p: Param): Param =>
  Object.fromEntries(Object.entries(p).filter(([, v]) => v !== '')) as unknown as Param
const addParam = () =>
  setParams([
    ...params.value,
    {
      id: freshId('param'),
      name: 'P' + (params.value.length + 1),
      kind: 'equipment',
      type: project.types[0]?.id,
    } as Param,
  ])
const entries = computed(() => doc.value.entries ?? [])
const setEntries = (list: Entry[]) => set('entries', list.length ? list : undefined)
async function first() {
  const ops = project.screens
    .filter((s) => s.home)
    .map((s) => ({ kind: 'screen', id: s.id, path: '/home', value: false }))
  await project.edit(t('editor.screenEdited', { name: doc.value.name }), [
    ...ops,
    { kind: 'screen', id: doc.value.id, path: '/home', value: true },
  ])
}
async function remove() {
  const { id, name } = doc.value
  const other = project.screens.find((s) => s.id !== id)?.id
  await router.push({ name: 'screens', params: { project: project.id, id: other } })
  await project.edit(t('editor.screenDeleted', { name }), [{ kind: 'screen', id, path: '' }])
}
</script>

<template>
  <InspectorPane :title="doc.name" :note="$t('editor.screen')">
    <template #tools>
      <button class="bare" :title="$t('common.delete')" :aria-label="$t('common.delete')" @click="remove">
        <v-icon :icon="mdiTrashCanOutline" size="18" />
      </button>
    </template>
    <div class="fields">
      <FieldText
        class="wide"
        :label="$t('common.name')"
        :model-value="doc.name"
        @update:model-value="set('name', $event)" />
      <FieldText
        class="wide"
        :label="$t('editor.title')"
        :model-value="doc.title"
        @update:model-value="set('title', $event)" />
      <FieldText
        :label="$t('editor.width')"
        mono
        :model-value="doc.width"
        @update:model-value="set('width', Number($event))" />
      <FieldText
        :label="$t('editor.height')"
        mono
        :model-value="doc.height"
        @update:model-value="set('height', Number($event))" />
      <FieldSelect
        :label="$t('tags.area')"
        :model-value="doc.area ?? ''"
        :options="[
          { value: '', title: $t('site.plant') },
          ...(project.overview?.site.areas ?? []).map((a) => ({ value: a.id, title: a.name })),
        ]"
        @update:model-value="set('area', $event)" />
      <FieldText
        :label="$t('editor.order')"
        mono
        :model-value="doc.order"
        @update:model-value="set('order', Number($event))" />
      <FieldSelect
        :label="$t('editor.role')"
        :model-value="doc.role ?? ''"
        :options="
          (['', 'popup', 'faceplate', 'symbol', 'header', 'footer'] as const).map((r) => ({
            value: r,
            title: $t($word('role', r || 'main')),
          }))
        "
        @update:model-value="set('role', $event)" />
      <ColourField
        class="wide"
        :label="$t('editor.background')"
        :model-value="doc.background || undefined"
        @update:model-value="set('background', $event === 'none' ? '' : $event)" />
      <FieldCheck
        :label="$t('editor.isFirst')"
        :model-value="doc.home"
        :disabled="doc.home"
        @update:model-value="first" />
      <FieldCheck
        :label="$t('editor.hidden')"
        :model-value="doc.hidden"
        @update:model-value="set('hidden', $event || undefined)" />
    </div>
    <div class="block">
      <h2>{{ $t('editor.params') }}</h2>
      <div v-for="(p, i) in params" :key="p.id" class="sub">
        <div class="two">
          <FieldText
            :label="$t('common.name')"
            mono
            :model-value="p.name"
            @update:model-value="alter(i, { name: $event })" />
          <FieldSelect
            :label="$t('editor.paramKind')"
            :model-value="p.kind"
            :options="
              (['equipment', 'tag', 'number', 'text', 'colour'] as const).map((k) => ({
                value: k,
                title: $t($word('paramKind', k)),
              }))
            "
            @update:model-value="alter(i, { kind: $event as Param['kind'], type: '', default: '' })" />
        </div>
        <FieldSelect
          v-if="p.kind === 'equipment'"
          :label="$t('editor.paramType')"
          :model-value="p.type ?? ''"
          :options="project.types.map((x) => ({ value: x.id, title: x.name }))"
          @update:model-value="alter(i, { type: $event, default: '' })" />
        <FieldText
          v-if="p.kind === 'tag'"
          :label="$t('tags.type')"
          mono
          :model-value="p.type"
          @update:model-value="alter(i, { type: $event })" />
        <ArgsEditor
          target=""
          on=""
          :own="[{ ...p, title: $t('editor.paramDefault') }]"
          :model-value="p.default ? { [p.id]: p.default } : undefined"
          @update:model-value="alter(i, { default: $event?.[p.id] ?? '' })" />
        <button class="chip" @click="setParams(params.filter((_, k) => k !== i))">
          {{ $t('common.delete') }}
        </button>
      </div>
      <button class="chip" @click="addParam">+ {{ $t('editor.addParam') }}</button>
    </div>
    <div v-if="params.length && !doc.role" class="block">
      <h2>{{ $t('editor.entries') }}</h2>
      <div v-for="(e, i) in entries" :key="i" class="sub">
        <FieldText
          :label="$t('common.name')"
          :model-value="e.name"
          @update:model-value="setEntries(entries.map((x, k) => (k === i ? { ...x, name: $event } : x)))" />
        <ArgsEditor
          target=""
          on=""
          :own="params"
          :model-value="e.args"
          @update:model-value="setEntries(entries.map((x, k) => (k === i ? { ...x, args: $event } : x)))" />
        <button class="chip" @click="setEntries(entries.filter((_, k) => k !== i))">
          {{ $t('common.delete') }}
        </button>
      </div>
      <button class="chip" @click="setEntries([...entries, { name: doc.name }])">
        + {{ $t('editor.addEntry') }}
      </button>
    </div>
    <RolePick :label="$t('editor.mayOpen')" :chosen="doc.roles ?? []" @set="set('roles', $event)" />
    <RolePick
      :label="$t('editor.mayOperate')"
      :chosen="doc.operators ?? []"
      @set="set('operators', $event)" />
    <div class="block acts">
      <button class="chip" @click="emit('substitute')">{{ $t('menu.substitute') }}</button>
      <button class="chip" @click="saveScreen(doc, colour(doc.background || 'field'), 'svg')">SVG</button>
      <button class="chip" @click="saveScreen(doc, colour(doc.background || 'field'), 'png')">PNG</button>
    </div>
    <div v-if="findings.length">
      <h2>{{ $t('release.findings') }}</h2>
      <router-link v-for="(f, i) in findings" :key="i" class="finding" :class="f.severity" :to="where(f)">
        <strong>{{ f.name }}</strong>
        {{ f.says }}
      </router-link>
    </div>
    <p class="quiet">{{ $t('editor.hint') }}</p>
    <UsesList :id="doc.id" />
  </InspectorPane>
</template>

<style scoped>
.finding {
  display: block;
  margin-top: 6px;
  color: inherit;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
}
.line {
  display: flex;
  gap: 8px;
  align-items: center;
}
.acts {
  display: flex;
  flex-wrap: wrap;
}
.small {
  font-size: 12px;
  margin: 0;
}
</style>
