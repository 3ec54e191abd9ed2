<script setup lang="ts">
import { computed, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import { useProject } from '../../rail/project'
import { bytes } from '../../kit/bytes'

// The folder that a log is written out to, of those that the server allows, and
// the time of the day at which that goes by itself.
const props = defineProps<{
  out: Schemas['LogOut']
  cut: boolean
  problem: (place: string) => string | undefined
}>()
const emit = defineEmits<{ set: [out: Schemas['LogOut'] | undefined] }>()
const project = useProject()
const { t } = useI18n({ useScope: 'global' })
const FORMATS = ['csv', 'csv-long', 'xlsx', 'parquet'] as const
const PARTS = ['', 'day', 'span'] as const
const folders = shallowRef<Schemas['FolderState'][]>([])
void ask(api.GET('/api/projects/{project}/file-folders', { params: { path: project.path } }))
  .catch(() => [])
  .then((list) => (folders.value = list))
const chosen = computed(() => folders.value.find((f) => f.name === props.out.folder))
const options = computed(() => {
  const all = folders.value.map((f) => ({ value: f.name, title: f.name }))
  const { folder } = props.out
  const gone = folder && !chosen.value ? [{ value: folder, title: t('log.missing', { name: folder }) }] : []
  return [{ value: '', title: t('log.noFolder') }, ...all, ...gone]
})
const set = (change: Partial<Schemas['LogOut']>) => emit('set', { ...props.out, ...change })
</script>

<template>
  <h2>{{ $t('log.out') }}</h2>
  <p class="quiet">{{ $t(folders.length ? 'log.outAbout' : 'log.noFolders') }}</p>
  <FieldSelect
    :label="$t('log.folder')"
    :model-value="out.folder ?? ''"
    :options="options"
    :hint="chosen && (chosen.problem || $t('log.freeRoom', { size: bytes(chosen.free) }))"
    @update:model-value="$event ? set({ folder: $event }) : emit('set', undefined)" />
  <div v-if="out.folder" class="fields">
    <FieldSelect
      :label="$t('log.form')"
      :model-value="out.format || 'csv'"
      :options="FORMATS.map((value) => ({ value, title: $t($word('log.format', value)) }))"
      @update:model-value="set({ format: $event })" />
    <FieldText
      :label="$t('log.outAt')"
      :model-value="out.at"
      placeholder="22:05"
      :problem="problem('/out/at')"
      @update:model-value="set({ at: $event.trim() || undefined })" />
    <FieldSelect
      :label="$t('log.per')"
      :model-value="out.per ?? ''"
      :options="
        PARTS.filter((part) => part !== 'span' || cut || out.per === 'span').map((value) => ({
          value,
          title: $t($word('log.part', value || 'one')),
        }))
      "
      @update:model-value="set({ per: $event || undefined })" />
    <FieldText
      :label="$t('log.fileName')"
      :model-value="out.name"
      :placeholder="$t('log.usualName')"
      :hint="$t('log.nameWords')"
      :problem="problem('/out/name')"
      @update:model-value="set({ name: $event.trim() || undefined })" />
    <FieldCheck
      :label="$t('log.withJournal')"
      :model-value="!!out.journal"
      @update:model-value="set({ journal: $event || undefined })" />
    <FieldCheck
      :label="$t('log.withTrail')"
      :model-value="!!out.trail"
      @update:model-value="set({ trail: $event || undefined })" />
    <FieldCheck
      :label="$t('log.withDeliveries')"
      :model-value="!!out.deliveries"
      @update:model-value="set({ deliveries: $event || undefined })" />
  </div>
</template>

<style scoped>
h2 {
  margin: 6px 0 0;
  font-size: 15px;
}
p {
  margin: 0;
  font-size: 13px;
}
</style>
