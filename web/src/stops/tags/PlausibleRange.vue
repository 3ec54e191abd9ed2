<script setup lang="ts">
import { computed } from 'vue'
import type { Tag } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldText from '../../kit/FieldText.vue'

// Where a measured value can be: outside of it its quality is bad, "out of range".
const props = defineProps<{ tag: Tag; problem?: string }>()
const emit = defineEmits<{ set: [range: Tag['plausible'] | undefined] }>()
const range = computed(() => props.tag.plausible)

function change(side: 'low' | 'high', text: string) {
  const n = Number(text.replace(',', '.'))
  const next = { ...range.value, [side]: text.trim() === '' || !Number.isFinite(n) ? undefined : n }
  emit('set', next.low === undefined && next.high === undefined ? undefined : next)
}
</script>

<template>
  <div class="fields">
    <FieldText
      :label="$t('tags.plausibleLow')"
      mono
      :model-value="range?.low"
      :problem="problem"
      @update:model-value="change('low', $event)" />
    <FieldText
      :label="$t('tags.plausibleHigh')"
      mono
      :model-value="range?.high"
      :hint="$t('tags.plausibleWhy')"
      @update:model-value="change('high', $event)" />
  </div>
  <FieldCheck
    v-if="range && tag.scale"
    :label="$t('tags.plausibleRaw')"
    :model-value="range.raw"
    @update:model-value="emit('set', { ...range, raw: $event || undefined })" />
</template>

<style scoped>
.fields {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px 12px;
}
</style>
