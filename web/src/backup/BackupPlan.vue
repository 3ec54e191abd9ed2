<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../api/client'
import FieldCheck from '../kit/FieldCheck.vue'
import FieldSelect from '../kit/FieldSelect.vue'
import FieldText from '../kit/FieldText.vue'

// When backups are taken by themselves, how many are kept, and for whom.
type Plan = Schemas['BackupPlan']
const props = defineProps<{ plan: Plan }>()
const emit = defineEmits<{ save: [plan: Plan]; leave: [] }>()
const { t } = useI18n()
const form = ref<Plan>({ ...props.plan })
const DAY = 24
const WEEK = 7 * DAY
const USUAL = [0, 1, 4, 12, DAY, WEEK]
const words = (n: number) => {
  if (n === 0) return t('backup.everyHand')
  if (n === DAY) return t('backup.everyDay')
  return n === WEEK ? t('backup.everyWeek') : t('backup.everyHours', { n })
}
const choices = computed(() =>
  [...new Set([...USUAL, props.plan.every])]
    .sort((a, b) => a - b)
    .map((n) => ({ value: String(n), title: words(n) })),
)
</script>

<template>
  <form class="fields" @submit.prevent="emit('save', form)">
    <FieldSelect
      :label="$t('backup.every')"
      :model-value="String(form.every)"
      :options="choices"
      @update:model-value="form.every = Number($event)" />
    <FieldText
      v-if="form.every"
      :label="$t('backup.at')"
      :model-value="form.at"
      mono
      @typing="form.at = $event" />
    <FieldText
      :label="$t('backup.keep')"
      type="number"
      :model-value="form.keep"
      @typing="form.keep = Number($event)" />
    <FieldText
      class="wide"
      :label="$t('backup.recipient')"
      :model-value="form.recipient"
      :hint="$t('backup.recipientHint')"
      mono
      @typing="form.recipient = $event" />
    <FieldCheck
      class="wide"
      :label="$t('backup.keys')"
      :model-value="form.keys"
      @update:model-value="form.keys = $event" />
    <p class="wide quiet">{{ $t('backup.keysHint') }}</p>
    <div class="wide acts">
      <v-btn type="submit" color="primary">{{ $t('backup.keepPlan') }}</v-btn>
      <v-btn variant="text" @click="emit('leave')">{{ $t('common.cancel') }}</v-btn>
    </div>
  </form>
</template>

<style scoped>
form {
  margin-top: 12px;
}
.acts {
  display: flex;
  gap: 8px;
}
</style>
