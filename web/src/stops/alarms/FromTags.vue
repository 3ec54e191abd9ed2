<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { PRIORITIES } from '../../alarms/useAlarms'
import { api, ask, type TagRow } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import { freshId, useProject } from '../../rail/project'
import PathText from '../../kit/PathText.vue'

/** An alarm of the same make for each of many tags, found by a filter, as one edit. */
const emit = defineEmits<{ done: [] }>()
const project = useProject()
const { t } = useI18n()
const MOST = 500
const filter = ref('')
const name = ref('')
const kind = ref('state')
const priority = ref('medium')
const limit = ref('')
const message = ref('{value}')
const rows = shallowRef<TagRow[]>([])
const total = ref(0)
watch([refDebounced(filter, 200), kind], async ([text]) => {
  if (!text.trim()) return void (rows.value = [])
  const page = await ask(
    api.GET('/api/projects/{project}/tags', { params: { path: project.path, query: { text, limit: MOST } } }),
  ).catch(() => undefined)
  rows.value = (page?.rows ?? []).filter((r) =>
    kind.value === 'state'
      ? r.tag.type === 'BOOL'
      : kind.value === 'quality' || (r.tag.type !== 'BOOL' && !r.tag.type.startsWith('STRING')),
  )
  total.value = page?.total ?? 0
})
const limited = computed(() => ['high-high', 'high', 'low', 'low-low'].includes(kind.value))
const ready = computed(
  () => rows.value.length > 0 && name.value.trim() && (!limited.value || limit.value.trim()),
)
/** A name or message for one tag; a point before a name is a tag beside it. */
function fill(text: string, r: TagRow): string {
  const folder = r.path.includes('.') ? r.path.slice(0, r.path.lastIndexOf('.')) : ''
  const known: Record<string, string> = {
    path: r.path,
    folder,
    name: r.tag.name,
    description: r.tag.description || r.tag.name,
    i: /(\d+)\]?[^\d]*$/.exec(r.path)?.[1] ?? '',
  }
  return text
    .replace(/\{(path|folder|name|description|i)\}/g, (_, k: string) => known[k]!)
    .replace(/\{\./g, folder ? `{${folder}.` : '{')
}
const made = (r: TagRow) => ({
  name: fill(name.value.trim(), r).slice(0, 80),
  tag: r.tag.id,
  kind: kind.value,
  priority: priority.value,
  limit: limited.value ? fill(limit.value, r) : undefined,
  message: fill(message.value, r),
})
async function make() {
  const ops = rows.value.map((r) => ({ kind: 'alarm', id: freshId('alarm'), path: '', value: made(r) }))
  if (!(await project.edit(t('alarms.added', { n: ops.length }), ops))) emit('done')
}
</script>

<template>
  <form class="make" @submit.prevent="make">
    <FieldText
      :label="$t('alarms.tagsLike')"
      mono
      :model-value="filter"
      @typing="filter = $event"
      @update:model-value="filter = $event" />
    <FieldSelect
      :label="$t('alarms.kind')"
      :model-value="kind"
      :options="
        (['state', 'high-high', 'high', 'low', 'low-low', 'quality'] as const).map((v) => ({
          value: v,
          title: $t($word('alarms.kinds', v)),
        }))
      "
      @update:model-value="kind = $event" />
    <FieldText
      v-if="limited"
      :label="$t('alarms.limit')"
      mono
      :model-value="limit"
      @typing="limit = $event"
      @update:model-value="limit = $event" />
    <FieldSelect
      :label="$t('alarm.column.priority')"
      :model-value="priority"
      :options="PRIORITIES.map((v) => ({ value: v, title: $t($word('alarm.priority', v)) }))"
      @update:model-value="priority = $event" />
    <FieldText
      :label="$t('common.name')"
      :hint="$t('alarms.nameHint')"
      :model-value="name"
      @typing="name = $event"
      @update:model-value="name = $event" />
    <FieldText
      :label="$t('alarm.column.text')"
      :model-value="message"
      @typing="message = $event"
      @update:model-value="message = $event" />
    <div class="end">
      <v-btn type="submit" color="primary" :disabled="!ready">
        {{ $t('alarms.make', { n: rows.length }) }}
      </v-btn>
      <span class="quiet small">{{ $t('alarms.placeholders') }}</span>
    </div>
    <ul v-if="rows.length && name.trim()" class="end preview">
      <li v-for="r in rows.slice(0, 3)" :key="r.tag.id">
        <PathText class="mono" :path="r.path" />
        <strong>{{ made(r).name }}</strong>
        <span class="quiet">{{ made(r).message }}</span>
      </li>
      <li v-if="rows.length > 3" class="quiet">…</li>
    </ul>
  </form>
</template>

<style scoped>
.make {
  display: grid;
  grid-template-columns: 1.4fr 1fr 0.7fr 0.8fr 1.4fr 1.4fr;
  gap: 8px 12px;
  padding: 10px 16px;
  background: var(--c-tint);
  border-bottom: 1px solid var(--c-line);
  align-items: end;
}
.end {
  grid-column: 1 / -1;
  display: flex;
  align-items: center;
  gap: 12px;
}
.preview {
  list-style: none;
  margin: 0;
  padding: 0;
  flex-direction: column;
  align-items: stretch;
  gap: 2px;
  font-size: 13px;
}
.preview li {
  display: flex;
  gap: 14px;
}
.small {
  font-size: 12px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
