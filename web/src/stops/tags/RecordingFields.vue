<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import { typedNumber } from '../../kit/number'

// What the recorder does with a tag or with the tags of a folder: the usual,
// nothing, or with a band and days of its own.
type Recording = Schemas['Recording']
const props = defineProps<{
  record?: Recording
  /** What holds where nothing is said. */
  usual: string
  band?: string
  days?: string
  problem?: (field: string) => string | undefined
}>()
const emit = defineEmits<{ set: [record: Recording | undefined] }>()
const { t } = useI18n({ useScope: 'global' })
const how = computed(() => (!props.record ? 'usual' : props.record.off ? 'off' : 'own'))
const options = computed(() => [
  { value: 'usual', title: props.usual },
  { value: 'own', title: t('recording.own') },
  { value: 'off', title: t('recording.off') },
])
const choose = (value: string) =>
  emit('set', value === 'usual' ? undefined : value === 'off' ? { off: true } : {})
const number = (field: 'band' | 'days') => (text: string) =>
  emit('set', { ...props.record, [field]: text.trim() ? (typedNumber(text) ?? text) : undefined })
</script>

<template>
  <FieldSelect
    :label="$t('recording.title')"
    :model-value="how"
    :options="options"
    @update:model-value="choose" />
  <div v-if="how === 'own'" class="fields">
    <FieldText
      :label="$t('recording.band')"
      :model-value="record?.band"
      :placeholder="band"
      :problem="problem?.('band')"
      @update:model-value="number('band')($event)" />
    <FieldText
      :label="$t('recording.days')"
      :model-value="record?.days"
      :placeholder="days"
      :problem="problem?.('days')"
      @update:model-value="number('days')($event)" />
  </div>
</template>
