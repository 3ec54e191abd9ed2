<script setup lang="ts">
import { ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import FieldText from '../../kit/FieldText.vue'
import { typedNumber } from '../../kit/number'
import { api, ask, type Refused, type Schemas } from '../../api/client'
import { bytes } from '../../kit/bytes'
import { useProject } from '../../rail/project'
import StorageParts from './StorageParts.vue'

/** How much the recorder keeps of all tags that say nothing of their own. */
const project = useProject()
const { t } = useI18n()
const refused = ref<Refused>()
const storage = shallowRef<Schemas['Storage']>()
watch(
  () => [project.id, project.versionOf('site', 'log')],
  async () => {
    if (!project.id) return
    storage.value = await ask(
      api.GET('/api/projects/{project}/storage', { params: { path: project.path } }),
    ).catch(() => storage.value)
  },
  { immediate: true },
)
const bounds = () => project.overview?.site.recorder
const problem = (field: string) =>
  refused.value?.problem.refusal?.path === '/recorder/' + field ? refused.value.message : undefined
async function set(field: 'days' | 'mb', text: string) {
  const value = { ...bounds(), [field]: text.trim() ? (typedNumber(text) ?? text) : undefined }
  refused.value = await project.edit(t('site.edit'), [{ kind: 'site', id: 'site', path: '/recorder', value }])
}
</script>

<template>
  <div class="block">
    <h2>{{ $t('site.recorder') }}</h2>
    <p class="quiet">{{ $t('site.recorderWhy') }}</p>
    <p v-if="storage" class="quiet">
      {{
        $t('site.storage', {
          now: bytes(storage.recorder + storage.logs),
          daily: bytes(storage.daily),
          later: bytes(storage.later),
          free: bytes(storage.free),
        })
      }}
    </p>
    <StorageParts v-if="storage" :parts="storage.parts" />
    <div class="fields">
      <FieldText
        :label="$t('recording.days')"
        :model-value="bounds()?.days"
        placeholder="30"
        :problem="problem('days')"
        @update:model-value="set('days', $event)" />
      <FieldText
        :label="$t('site.recorderMB')"
        :model-value="bounds()?.mb"
        :placeholder="$t('log.noBound')"
        :problem="problem('mb')"
        @update:model-value="set('mb', $event)" />
    </div>
  </div>
</template>

<style scoped>
.block {
  max-width: 720px;
}
.fields {
  max-width: 340px;
}
</style>
