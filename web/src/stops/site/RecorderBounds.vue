<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import FieldText from '../../kit/FieldText.vue'
import { typedNumber } from '../../kit/number'
import type { Refused } from '../../api/client'
import { useProject } from '../../rail/project'

/** How much the recorder keeps of all tags that say nothing of their own. */
const project = useProject()
const { t } = useI18n()
const refused = ref<Refused>()
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
