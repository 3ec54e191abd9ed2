<script setup lang="ts">
import { mdiTrashCanOutline } from '@mdi/js'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import InspectorPane from '../../kit/InspectorPane.vue'
import UsesList from '../../kit/UsesList.vue'
import { useProject } from '../../rail/project'
import type { Editor } from './useEditor'

const props = defineProps<{ editor: Editor }>()
const project = useProject()
const router = useRouter()
const { t } = useI18n()
const doc = computed(() => props.editor.doc.value!)
const findings = computed(() => project.findings.filter((f) => f.id === doc.value.id && f.severity !== 'note'))

function set(field: string, value: unknown) {
  return project.edit(t('editor.screenEdited', { name: doc.value.name }), [{ kind: 'screen', id: doc.value.id, path: '/' + field, value: value === '' ? undefined : value }])
}
async function first() {
  const ops = project.screens.filter((s) => s.home).map((s) => ({ kind: 'screen', id: s.id, path: '/home', value: false }))
  await project.edit(t('editor.screenEdited', { name: doc.value.name }), [...ops, { kind: 'screen', id: doc.value.id, path: '/home', value: true }])
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
    <template #tools><button class="bare" :title="$t('common.delete')" :aria-label="$t('common.delete')" @click="remove"><v-icon :icon="mdiTrashCanOutline" size="18" /></button></template>
    <div class="fields">
      <FieldText class="wide" :label="$t('common.name')" :model-value="doc.name" @update:model-value="set('name', $event)" />
      <FieldText class="wide" :label="$t('editor.title')" :model-value="doc.title" @update:model-value="set('title', $event)" />
      <FieldText :label="$t('editor.width')" mono :model-value="doc.width" @update:model-value="set('width', Number($event))" />
      <FieldText :label="$t('editor.height')" mono :model-value="doc.height" @update:model-value="set('height', Number($event))" />
      <FieldSelect :label="$t('tags.area')" :model-value="doc.area ?? ''" :options="[{ value: '', title: $t('site.plant') }, ...(project.overview?.site.areas ?? []).map((a) => ({ value: a.id, title: a.name }))]" @update:model-value="set('area', $event)" />
      <FieldText :label="$t('editor.order')" mono :model-value="doc.order" @update:model-value="set('order', Number($event))" />
      <FieldCheck :label="$t('editor.isFirst')" :model-value="doc.home" :disabled="doc.home" @update:model-value="first" />
      <FieldCheck :label="$t('editor.hidden')" :model-value="doc.hidden" @update:model-value="set('hidden', $event || undefined)" />
    </div>
    <div v-if="findings.length">
      <h2>{{ $t('release.findings') }}</h2>
      <router-link v-for="(f, i) in findings" :key="i" class="finding" :class="f.severity" :to="{ name: 'screens', params: { project: project.id, id: doc.id, element: f.place.split('/')[2] } }"><strong>{{ f.name }}</strong> {{ f.says }}</router-link>
    </div>
    <p class="quiet">{{ $t('editor.hint') }}</p>
    <UsesList :id="doc.id" />
  </InspectorPane>
</template>

<style scoped>
.finding { display: block; margin-top: 6px; color: inherit; }
</style>
