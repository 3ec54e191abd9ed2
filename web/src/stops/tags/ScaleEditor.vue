<script setup lang="ts">
import { computed } from 'vue'
import type { Tag } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import type { TagValue } from '../../live/useTagValues'

// Two points, with the present raw value worked through them.
const props = defineProps<{ tag: Tag; value: TagValue | undefined; problem?: string }>()
const emit = defineEmits<{ set: [scale: Tag['scale'] | undefined] }>()
const scale = computed(() => props.tag.scale)
type Field = 'rawLow' | 'rawHigh' | 'engLow' | 'engHigh'

function change(field: Field, e: Event) {
  const n = Number((e.target as HTMLInputElement).value.replace(',', '.'))
  if (Number.isFinite(n) && scale.value) emit('set', { ...scale.value, [field]: n })
}
function toggle(on: boolean) {
  emit('set', on ? { rawLow: 0, rawHigh: 1000, engLow: 0, engHigh: 100 } : undefined)
}
const rows: [Field, Field][] = [['rawLow', 'engLow'], ['rawHigh', 'engHigh']]
</script>

<template>
  <div class="box">
    <div class="head"><strong>{{ $t('scale.title') }}</strong><FieldCheck :label="$t('scale.on')" :model-value="!!scale" @update:model-value="toggle" /></div>
    <table v-if="scale">
      <thead><tr><th>{{ $t('scale.raw') }}</th><th /><th>{{ $t('scale.shown') }}</th><th /></tr></thead>
      <tbody>
        <tr v-for="[r, s] in rows" :key="r">
          <td><input class="plain mono" :value="scale[r]" :aria-label="$t('scale.' + r)" @change="change(r, $event)" /></td><td class="arrow">→</td>
          <td><input class="plain mono" :value="scale[s]" :aria-label="$t('scale.' + s)" @change="change(s, $event)" /></td><td class="quiet">{{ tag.unit }}</td>
        </tr>
        <tr class="live"><td class="mono">{{ value?.raw ?? '—' }}</td><td class="arrow">→</td><td class="mono">{{ value?.level === 'bad' ? '—' : value?.text }}</td><td class="quiet">{{ $t('scale.now') }}</td></tr>
      </tbody>
    </table>
    <FieldCheck v-if="scale" :label="$t('scale.clamp')" :model-value="scale.clamp" @update:model-value="emit('set', { ...scale, clamp: $event || undefined })" />
    <div v-if="problem" class="err">{{ problem }}</div>
  </div>
</template>

<style scoped>
.box { border: 1px solid var(--c-line); border-radius: 4px; padding: 6px 12px; background: var(--c-paper); }
.head { display: flex; justify-content: space-between; align-items: center; }
table { width: 100%; border-spacing: 0 4px; }
th { font-size: 12px; color: var(--c-quiet); font-weight: 400; text-align: right; padding-right: 8px; }
td input { text-align: right; }
.arrow { text-align: center; color: var(--c-quiet); width: 34px; }
.live td { color: var(--c-spruce); font-weight: 650; text-align: right; padding-right: 9px; }
.live .quiet { font-weight: 400; }
</style>
