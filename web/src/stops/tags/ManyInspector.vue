<script setup lang="ts">
import { mdiTrashCanOutline } from '@mdi/js'
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Tag, type TagRow } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import InspectorPane from '../../kit/InspectorPane.vue'
import { useProject } from '../../rail/project'
import TagDefinition from './TagDefinition.vue'

// What several tags share and where they differ; an edit goes to all of them.
const props = defineProps<{ ids: string[] }>()
const emit = defineEmits<{ remove: []; copy: []; move: [] }>()
const project = useProject()
const { t } = useI18n()
const SAMPLE = 60
const rows = shallowRef<TagRow[]>([])
const refused = ref('')
const sampled = computed(() => props.ids.slice(0, SAMPLE))
watch(
  [sampled, () => project.versionOf('tag', 'type', 'equipment', 'device', 'paths', 'names')],
  async () => {
    const got = await Promise.all(
      sampled.value.map((id) =>
        ask(
          api.GET('/api/projects/{project}/tags/{id}', { params: { path: { ...project.path, id } } }),
        ).catch(() => undefined),
      ),
    )
    rows.value = got.filter((r): r is TagRow => !!r)
  },
  { immediate: true },
)

const isShared = (field: keyof Tag) =>
  props.ids.length <= SAMPLE && new Set(rows.value.map((r) => JSON.stringify(r.tag[field] ?? ''))).size === 1
/** The shared value of a field; undefined where they differ. */
const shared = (field: keyof Tag) => (isShared(field) ? String(rows.value[0]!.tag[field] ?? '') : undefined)
/** The tag that all of them are, as far as they are alike. */
const common = computed(() => {
  const out = { id: '', name: '', type: shared('type') ?? 'INT', source: shared('source') ?? '' } as Tag
  for (const field of [
    'device',
    'poll',
    'order',
    'initial',
    'retain',
    'formula',
    'scale',
    'plausible',
    'invert',
    'low',
    'high',
    'decimals',
    'unit',
    'step',
    'states',
  ] as const) {
    if (isShared(field)) Object.assign(out, { [field]: rows.value[0]!.tag[field] })
  }
  return out
})
const hint = (field: keyof Tag) => (shared(field) === undefined ? t('inspector.differs') : undefined)
async function set(field: keyof Tag, value: unknown) {
  const r = await project.edit(
    t('tags.editedMany', { n: props.ids.length }),
    props.ids.map((id) => ({ kind: 'tag', id, path: '/' + field, value: value === '' ? undefined : value })),
  )
  refused.value = r?.message ?? ''
}
const types = ['BOOL', 'SINT', 'USINT', 'INT', 'UINT', 'DINT', 'UDINT', 'LINT', 'ULINT', 'REAL', 'LREAL']
const mixed = { value: '', title: '—' }
const groups = computed(() => {
  const device = project.devices.find((d) => d.id === shared('device'))
  return device?.groups ?? []
})
</script>

<template>
  <InspectorPane :title="$t('tags.many', { n: ids.length })" :note="$t('tags.manyWhy')">
    <template #tools>
      <button
        class="bare"
        :aria-label="$t('common.delete')"
        :title="$t('common.delete')"
        @click="emit('remove')">
        <v-icon :icon="mdiTrashCanOutline" size="18" />
      </button>
    </template>
    <div v-if="refused" class="problem" role="alert">{{ refused }}</div>
    <div class="fields">
      <FieldText
        class="wide"
        :label="$t('common.description')"
        :model-value="shared('description')"
        :placeholder="hint('description')"
        @update:model-value="set('description', $event)" />
      <FieldSelect
        :label="$t('tags.type')"
        :model-value="shared('type') ?? ''"
        :options="[mixed, ...types.map((v) => ({ value: v, title: v }))]"
        @update:model-value="set('type', $event)" />
      <FieldSelect
        :label="$t('tags.source')"
        :model-value="shared('source') ?? ''"
        :options="[
          mixed,
          ...(['device', 'internal', 'computed'] as const).map((v) => ({
            value: v,
            title: $t($word('source', v)),
          })),
        ]"
        @update:model-value="$event && set('source', $event)" />
      <FieldSelect
        :label="$t('tags.device')"
        :model-value="shared('device') ?? ''"
        :options="[mixed, ...project.devices.map((d) => ({ value: d.id, title: d.name }))]"
        @update:model-value="set('device', $event)" />
      <FieldSelect
        :label="$t('tags.access')"
        :model-value="shared('access') ?? ''"
        :options="[
          mixed,
          ...(['read', 'readwrite'] as const).map((v) => ({ value: v, title: $t($word('access', v)) })),
        ]"
        @update:model-value="set('access', $event)" />
      <FieldSelect
        :label="$t('tags.group')"
        :model-value="shared('group') ?? ''"
        :options="[
          { value: '', title: shared('group') === undefined ? '—' : $t('tags.asDevice') },
          ...groups.map((g) => ({ value: g.id, title: g.name })),
        ]"
        @update:model-value="set('group', $event)" />
      <FieldSelect
        :label="$t('tags.area')"
        :model-value="shared('area') ?? ''"
        :options="[
          { value: '', title: shared('area') === undefined ? '—' : $t('tags.asFolder') },
          ...(project.overview?.site.areas ?? []).map((a) => ({ value: a.id, title: a.name })),
        ]"
        @update:model-value="set('area', $event)" />
    </div>
    <TagDefinition v-if="rows.length" :tag="common" :hint="hint" @set="set" />
    <div class="acts">
      <v-btn variant="outlined" size="small" @click="emit('copy')">{{ $t('bulk.copy') }}</v-btn>
      <v-btn variant="outlined" size="small" @click="emit('move')">{{ $t('bulk.move') }}</v-btn>
    </div>
  </InspectorPane>
</template>

<style scoped>
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
</style>
