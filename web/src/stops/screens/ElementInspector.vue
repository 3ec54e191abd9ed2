<script setup lang="ts">
import { mdiContentDuplicate, mdiTrashCanOutline } from '@mdi/js'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Prop } from '../../api/client'
import FieldText from '../../kit/FieldText.vue'
import InspectorPane from '../../kit/InspectorPane.vue'
import { useProject } from '../../rail/project'
import PropField from './PropField.vue'
import type { Editor } from './useEditor'

// What the selected elements share, and what differs; an edit goes to all.
const props = defineProps<{ editor: Editor }>()
const project = useProject()
const { t } = useI18n()
const items = computed(() => props.editor.selected.value)
const kinds = computed(() => [...new Set(items.value.map(([, e]) => e.kind))])
const title = computed(() => (items.value.length === 1 ? items.value[0]![1].name || t('element.' + kinds.value[0]) : t('inspector.many', { n: items.value.length })))
const shared = computed<Prop[]>(() => {
  const first = project.kind(kinds.value[0]!)?.props ?? []
  return first.filter((p) => kinds.value.every((k) => project.prop(k, p.name)?.type === p.type) && applies(p))
})
const findings = computed(() => project.findings.filter((f) => f.id === props.editor.doc.value?.id && items.value.some(([id]) => f.place.startsWith(`/elements/${id}/`) || f.place === `/elements/${id}`)))

function applies(p: Prop) {
  if (!p.when) return true
  const [name, wanted] = p.when.split('=') as [string, string]
  return items.value.every(([, e]) => wanted.split('|').includes((e.props?.[name] ?? project.prop(e.kind, name)?.default) as string))
}
const one = (f: (e: (typeof items.value)[0][1]) => unknown) => {
  const all = items.value.map(([, e]) => f(e))
  return all.every((v) => JSON.stringify(v) === JSON.stringify(all[0])) ? all[0] : undefined
}
const differs = (f: (e: (typeof items.value)[0][1]) => unknown) => new Set(items.value.map(([, e]) => JSON.stringify(f(e)))).size > 1
function number(field: 'x' | 'y' | 'w' | 'h', text: string) {
  const v = Number(text.replace(',', '.'))
  if (Number.isFinite(v)) void props.editor.set(t('editor.placedAt'), items.value.map(([id]) => [id, field, v]))
}
function setProp(p: Prop, v: unknown) {
  void props.editor.set(t('inspector.set', { what: p.title }), items.value.map(([id]) => [id, 'props/' + p.name, v]))
}
function setBind(p: Prop, formula: string) {
  void props.editor.set(t('inspector.bound', { what: p.title }), items.value.map(([id]) => [id, 'bind/' + p.name, formula.trim() || undefined]))
}
const name = (v: string) => props.editor.set(t('inspector.named'), items.value.map(([id]) => [id, 'name', v || undefined]))
</script>

<template>
  <InspectorPane :title="title" :note="kinds.length === 1 ? $t('element.' + kinds[0]) : ''">
    <template #tools>
      <button class="bare" :title="$t('keys.duplicate')" :aria-label="$t('keys.duplicate')" @click="editor.duplicate()"><v-icon :icon="mdiContentDuplicate" size="18" /></button>
      <button class="bare" :title="$t('common.delete')" :aria-label="$t('common.delete')" @click="editor.remove()"><v-icon :icon="mdiTrashCanOutline" size="18" /></button>
    </template>
    <div v-for="f in findings" :key="f.rule + f.place" class="finding" :class="f.severity">{{ f.says }} <span class="quiet">{{ f.mend }}</span></div>
    <div class="fields four">
      <FieldText v-for="k in (['x', 'y', 'w', 'h'] as const)" :key="k" :label="k.toUpperCase()" mono :model-value="one((e) => e[k]) as number" :placeholder="differs((e) => e[k]) ? $t('inspector.differs') : ''" @update:model-value="number(k, $event)" />
    </div>
    <FieldText v-if="items.length === 1" :label="$t('common.name')" :model-value="items[0]![1].name" @update:model-value="name" />
    <PropField
      v-for="p in shared" :key="p.name" :prop="p" :value="one((e) => e.props?.[p.name] ?? project.prop(e.kind, p.name)?.default)" :differs="differs((e) => [e.props?.[p.name], e.bind?.[p.name]])"
      :formula="one((e) => e.bind?.[p.name]) as string | undefined" @set="setProp(p, $event)" @bind="setBind(p, $event)"
    />
  </InspectorPane>
</template>

<style scoped>
.four { grid-template-columns: repeat(4, 1fr); gap: 6px; }
</style>
