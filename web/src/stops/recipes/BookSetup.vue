<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import type { Op, Refused, Schemas } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import { freshScreen } from '../../rail/freshScreen'
import { freshId, useProject } from '../../rail/project'
import type { Book } from '../../recipes/useBook'
import BookChecks from './BookChecks.vue'
import { bookElements } from './bookScreen'
import BookSending from './BookSending.vue'
import FieldTable from './FieldTable.vue'

// A book as it is set up: its fields, where they go, what is checked, how it is
// sent.
const props = defineProps<{ book: Book }>()
const emit = defineEmits<{ gone: [] }>()
const project = useProject()
const router = useRouter()
const { t } = useI18n({ useScope: 'global' })
const refused = ref<Refused>()
const def = computed(() => props.book.def as Schemas['Book'])
const findings = computed(() => project.findings.filter((f) => f.kind === 'book' && f.id === props.book.id))
const types = computed(() => [
  { value: '', title: t('book.noType') },
  ...project.types.map((x) => ({ value: x.id, title: x.name })),
])
const areas = computed(() => [
  { value: '', title: t('book.wholePlant') },
  ...(project.overview?.site.areas ?? []).map((a) => ({ value: a.id, title: a.name })),
])
async function set(path: string, value: unknown, ...more: Op[]) {
  refused.value = await project.edit(t('book.edited', { name: def.value.name }), [
    { kind: 'book', id: props.book.id, path, value: value === '' ? undefined : value },
    ...more,
  ])
}
const problem = (path: string) =>
  refused.value?.problem.refusal?.path === path ? refused.value.message : undefined
/** Another type has other members: what goes to those of the old one stays here. */
function setType(type: string) {
  const fields = def.value.fields.map((f) => ({ ...f, member: undefined, tag: undefined }))
  const sending = { ...def.value.sending, when: undefined, hand: undefined }
  const id = props.book.id
  void set(
    '/type',
    type,
    { kind: 'book', id, path: '/fields', value: fields },
    { kind: 'book', id, path: '/sending', value: sending },
  )
}
/** A screen for the book, with all that is needed to work in it. */
async function draw() {
  const id = freshId('screen')
  const taken = new Set(project.screens.map((s) => s.name))
  let name = def.value.name
  for (let n = 2; taken.has(name); n++) name = `${def.value.name} ${n}`
  const { screenWidth: width, screenHeight: height } = project.overview!
  const elements = bookElements(props.book.id, width, height)
  const value = { ...freshScreen(project, name, elements), area: def.value.area }
  refused.value = await project.edit(t('editor.screenAdded'), [{ kind: 'screen', id, path: '', value }])
  if (refused.value) return
  await project.refresh()
  await router.push({ name: 'screens', params: { project: project.id, id } })
}
async function remove() {
  const ops = [{ kind: 'book', id: props.book.id, path: '' }]
  if (!(await project.edit(t('book.removed', { name: def.value.name }), ops))) emit('gone')
}
</script>

<template>
  <div v-if="def" class="setup">
    <div class="main">
      <div v-for="f in findings" :key="f.rule + f.place + f.says" class="finding" :class="f.severity">
        {{ f.says }}
        <span class="quiet">{{ f.mend }}</span>
      </div>
      <div v-if="refused" class="problem" role="alert">{{ refused.message }}</div>
      <FieldTable :book="book" :def="def" @set="set" />
      <BookChecks :def="def" @set="set" />
    </div>
    <aside class="aside">
      <FieldText
        :label="$t('common.name')"
        :model-value="def.name"
        :problem="problem('/name')"
        @update:model-value="set('/name', $event.trim())" />
      <FieldText
        :label="$t('book.note')"
        :model-value="def.note"
        @update:model-value="set('/note', $event)" />
      <FieldSelect
        :label="$t('book.type')"
        :model-value="def.type ?? ''"
        :options="types"
        :hint="$t('book.typeHint')"
        @update:model-value="setType" />
      <FieldSelect
        v-if="!def.type"
        :label="$t('book.area')"
        :model-value="def.area ?? ''"
        :options="areas"
        @update:model-value="set('/area', $event)" />
      <FieldCheck
        :label="$t('book.approved')"
        :model-value="!!def.approved"
        @update:model-value="set('/approved', $event)" />
      <FieldCheck
        :label="$t('book.two')"
        :model-value="!!def.two"
        @update:model-value="set('/two', $event)" />
      <BookSending :book="book" :def="def" :problem="problem" @set="set" />
      <button v-if="book.fields.length" class="chip" @click="draw">{{ $t('book.draw') }}</button>
      <button class="chip" @click="remove">{{ $t('book.remove') }}</button>
    </aside>
  </div>
</template>

<style scoped>
.setup {
  display: flex;
  flex: 1;
  min-width: 0;
  min-height: 0;
}
.main {
  flex: 1;
  min-width: 0;
  overflow: auto;
  padding: 10px 16px 24px;
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.aside {
  width: 300px;
  flex: none;
  overflow: auto;
  border-left: 1px solid var(--c-line);
  padding: 12px 14px 24px;
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.aside :deep(.block) {
  display: grid;
  gap: 8px;
  border-top: 1px solid var(--c-line);
  padding-top: 10px;
}
.aside :deep(.block p) {
  margin: 0;
  font-size: 12.5px;
  overflow-wrap: anywhere;
}
.finding {
  border-left: 3px solid var(--c-warning);
  padding: 4px 10px;
  font-size: 13px;
  background: color-mix(in srgb, var(--c-warning) 8%, var(--c-sheet));
}
.finding.error {
  border-color: var(--c-error);
  background: color-mix(in srgb, var(--c-error) 8%, var(--c-sheet));
}
.finding.note {
  border-color: var(--c-line);
  background: none;
}
</style>
