<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import { useProject } from '../../rail/project'

// What the columns and types of a list from elsewhere mean: said once, kept
// under the source's name, with the first rows as they stand in the list.
const props = defineProps<{ info: Schemas['ImportInfo'] }>()
const emit = defineEmits<{ match: [m: Schemas['Matching']]; cancel: [] }>()
const project = useProject()
const match = ref<Schemas['Matching']>({ source: '', header: true, columns: {} })
watch(
  () => props.info,
  (i) =>
    (match.value = {
      ...(i.match ?? { header: true, columns: {} }),
      source: i.match?.source || i.name.replace(/\.[^.]*$/, ''),
      columns: { ...(i.match?.columns ?? {}) },
    }),
  { immediate: true },
)

const ours = [
  'path',
  'type',
  'address',
  'description',
  'access',
  'device',
  'unit',
  'decimals',
  'raw_low',
  'raw_high',
  'eng_low',
  'eng_high',
  'gain',
  'offset',
  'limit_low',
  'limit_high',
  'initial',
  'area',
]
const width = computed(() => Math.max(0, ...props.info.sample.map((r) => r.length)))
const names = computed(() =>
  Array.from({ length: width.value }, (_, i) =>
    match.value.header ? props.info.sample[0]?.[i] || '' : '#' + (i + 1),
  ),
)
const meaning = (theirs: string) =>
  ours.find((o) => match.value.columns[o]?.toLowerCase() === theirs.toLowerCase()) ?? ''
function mean(theirs: string, what: string) {
  const columns = Object.fromEntries(
    Object.entries(match.value.columns).filter(
      ([o, c]) => c?.toLowerCase() !== theirs.toLowerCase() && o !== what,
    ),
  )
  if (what) columns[what] = theirs
  match.value = { ...match.value, columns }
}
const rows = computed(() => props.info.sample.slice(match.value.header ? 1 : 0))
const theirTypes = computed(() => {
  const at = names.value.findIndex((n) => meaning(n) === 'type')
  return at < 0 ? ['*'] : [...new Set(rows.value.map((r) => r[at] ?? '').filter(Boolean))]
})
const types = [
  '',
  'BOOL',
  'SINT',
  'USINT',
  'INT',
  'UINT',
  'DINT',
  'UDINT',
  'LINT',
  'ULINT',
  'REAL',
  'LREAL',
  'STRING(80)',
]
const setType = (theirs: string, to: string) =>
  (match.value = { ...match.value, types: { ...(match.value.types ?? {}), [theirs]: to } })
function done() {
  const types = Object.fromEntries(Object.entries(match.value.types ?? {}).filter(([, v]) => v))
  emit('match', { ...match.value, types })
}
</script>

<template>
  <div class="match">
    <p>{{ $t('match.why') }}</p>
    <div class="fields four">
      <FieldText
        :label="$t('match.source')"
        :model-value="match.source"
        @update:model-value="match = { ...match, source: $event.trim() }" />
      <FieldText
        :label="$t('match.separators')"
        mono
        :model-value="match.separators"
        @update:model-value="match = { ...match, separators: $event }" />
      <FieldText
        :label="$t('match.folder')"
        mono
        :model-value="match.folder"
        @update:model-value="match = { ...match, folder: $event.trim() }" />
      <FieldSelect
        :label="$t('tags.device')"
        :model-value="match.device ?? ''"
        :options="[
          { value: '', title: $t('match.byRow') },
          ...project.devices.map((d) => ({ value: d.id, title: d.name })),
        ]"
        @update:model-value="match = { ...match, device: $event || undefined }" />
    </div>
    <FieldCheck
      :label="$t('match.header')"
      :model-value="match.header"
      @update:model-value="match = { ...match, header: $event, columns: {} }" />
    <div class="scroll">
      <table class="grid">
        <thead>
          <tr>
            <th v-for="n in names" :key="n">
              <select
                class="plain"
                :value="meaning(n)"
                :aria-label="$t('match.means', { column: n })"
                @change="mean(n, ($event.target as HTMLSelectElement).value)">
                <option value="">{{ $t('match.nothing') }}</option>
                <option v-for="o in ours" :key="o" :value="o">{{ o }}</option>
              </select>
            </th>
          </tr>
          <tr v-if="match.header">
            <th v-for="n in names" :key="n" class="theirs">{{ n }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(r, i) in rows" :key="i">
            <td v-for="(_, c) in names" :key="c" class="mono">{{ r[c] }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div class="types">
      <strong>{{ $t('match.types') }}</strong>
      <label v-for="x in theirTypes" :key="x" class="type">
        <span class="mono">{{ x === '*' ? $t('match.all') : x }}</span>
        →
        <select
          class="plain"
          :value="match.types?.[x] ?? ''"
          :aria-label="$t('match.type', { type: x })"
          @change="setType(x, ($event.target as HTMLSelectElement).value)">
          <option v-for="y in types" :key="y" :value="y">{{ y || $t('match.asNamed') }}</option>
        </select>
      </label>
    </div>
    <div class="end">
      <v-btn v-if="!info.needs" variant="text" @click="emit('cancel')">{{ $t('common.cancel') }}</v-btn>
      <v-btn color="primary" :disabled="!match.columns.path" @click="done">{{ $t('match.done') }}</v-btn>
    </div>
  </div>
</template>

<style scoped>
.match {
  display: flex;
  flex-direction: column;
  gap: 10px;
  min-height: 0;
}
.match p {
  margin: 0;
  max-width: 720px;
}
.four {
  grid-template-columns: repeat(4, minmax(120px, 220px));
}
.scroll {
  overflow: auto;
  border: 1px solid var(--c-line);
  border-radius: 4px;
}
th .plain {
  min-width: 110px;
}
.theirs {
  color: var(--c-ink);
  font-weight: 650;
}
.types {
  display: flex;
  gap: 16px;
  flex-wrap: wrap;
  align-items: center;
}
.type {
  display: inline-flex;
  gap: 8px;
  align-items: center;
}
.type .plain {
  width: 120px;
}
.end {
  display: flex;
  gap: 10px;
}
</style>
