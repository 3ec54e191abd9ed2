<script setup lang="ts">
import { shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import { dayAndTime, moment } from '../../kit/moment'
import { bytes } from '../../kit/bytes'
import { useProject } from '../../rail/project'
import RecordingFields from './RecordingFields.vue'

// What keeps the course of a tag, since when and how much; what the recorder does
// with it is changed here.
const props = defineProps<{
  id: string
  record?: Schemas['Recording']
  problem: (field: string) => string | undefined
}>()
const emit = defineEmits<{ set: [record: Schemas['Recording'] | undefined] }>()
const project = useProject()
const kept = shallowRef<Schemas['Kept']>()
watch(
  [() => props.id, () => project.versionOf('tag/' + props.id, 'log', 'site', 'type', 'equipment', 'folder')],
  async () => {
    const params = { path: { ...project.path, id: props.id } }
    kept.value = await ask(api.GET('/api/projects/{project}/tags/{id}/kept', { params })).catch(
      () => undefined,
    )
  },
  { immediate: true },
)
</script>

<template>
  <template v-if="kept">
    <RecordingFields
      :record="record"
      :usual="kept.from && !record ? $t('recording.asFolder', { path: kept.from }) : $t('recording.usual')"
      :band="String(kept.band)"
      :days="String(kept.days)"
      :problem="(field) => problem('record/' + field)"
      @set="emit('set', $event)" />
    <p class="quiet">
      <template v-if="kept.since">
        {{ $t('recording.since', { at: moment(kept.since, dayAndTime) }) }}
        <template v-if="kept.bytes">· {{ bytes(kept.bytes) }}</template>
      </template>
      <template v-else>{{ $t('recording.nothing') }}</template>
      <template v-for="l in kept.logs" :key="l.id">
        ·
        <router-link :to="{ name: 'history', params: { project: project.id, id: l.id } }">
          {{ l.name }}
        </router-link>
      </template>
    </p>
  </template>
</template>

<style scoped>
p {
  margin: 0;
  font-size: 13px;
}
</style>
