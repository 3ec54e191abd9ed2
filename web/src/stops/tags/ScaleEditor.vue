<script setup lang="ts">
import { computed } from 'vue'
import type { Tag } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import type { TagValue } from '../../live/useTagValues'
import TypedInput from '../../kit/TypedInput.vue'

// Two points, or gain and offset, with the present raw value worked through.
const props = defineProps<{ tag: Tag; value: TagValue | undefined; problem?: string; differs?: string }>()
const emit = defineEmits<{ set: [scale: Tag['scale'] | undefined] }>()
const scale = computed(() => props.tag.scale)
const how = computed(() => (!scale.value ? 'none' : scale.value.gain ? 'gain' : 'points'))
type Field = 'rawLow' | 'rawHigh' | 'engLow' | 'engHigh' | 'gain' | 'offset'
const none = { rawLow: 0, rawHigh: 0, engLow: 0, engHigh: 0 }

function change(field: Field, e: Event) {
  const n = Number((e.target as HTMLInputElement).value.replace(',', '.'))
  if (Number.isFinite(n) && scale.value) emit('set', { ...scale.value, [field]: n })
}
function choose(to: string) {
  if (to === 'points') emit('set', { rawLow: 0, rawHigh: 1000, engLow: 0, engHigh: 100 })
  else if (to === 'gain') emit('set', { ...none, gain: 0.1 })
  else emit('set', undefined)
}
const rows = [
  ['rawLow', 'engLow'],
  ['rawHigh', 'engHigh'],
] as const
</script>

<template>
  <div class="box">
    <FieldSelect
      :label="$t('scale.title')"
      :model-value="how"
      :options="
        (['none', 'points', 'gain'] as const).map((v) => ({
          value: v,
          title: v === 'none' && differs ? differs : $t($word('scale', v)),
        }))
      "
      @update:model-value="choose" />
    <table v-if="scale">
      <thead>
        <tr>
          <th>{{ $t('scale.raw') }}</th>
          <th />
          <th>{{ $t('scale.shown') }}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <template v-if="how === 'points'">
          <tr v-for="[r, s] in rows" :key="r">
            <td>
              <TypedInput
                class="plain mono"
                :value="scale[r]"
                :aria-label="$t($word('scale', r))"
                @change="change(r, $event)" />
            </td>
            <td class="arrow">→</td>
            <td>
              <TypedInput
                class="plain mono"
                :value="scale[s]"
                :aria-label="$t($word('scale', s))"
                @change="change(s, $event)" />
            </td>
            <td class="quiet">{{ tag.unit }}</td>
          </tr>
        </template>
        <tr v-else>
          <td>
            <TypedInput
              class="plain mono"
              :value="scale.gain"
              :aria-label="$t('scale.gainField')"
              @change="change('gain', $event)" />
          </td>
          <td class="arrow">×, +</td>
          <td>
            <TypedInput
              class="plain mono"
              :value="scale.offset ?? 0"
              :aria-label="$t('scale.offsetField')"
              @change="change('offset', $event)" />
          </td>
          <td class="quiet">{{ tag.unit }}</td>
        </tr>
        <tr v-if="value" class="live">
          <td class="mono">{{ value?.raw ?? '—' }}</td>
          <td class="arrow">→</td>
          <td class="mono">{{ !value || value.level === 'bad' ? '—' : value.text }}</td>
          <td class="quiet">{{ $t('scale.now') }}</td>
        </tr>
      </tbody>
    </table>
    <FieldCheck
      v-if="how === 'points'"
      :label="$t('scale.clamp')"
      :model-value="scale!.clamp"
      @update:model-value="emit('set', { ...scale!, clamp: $event || undefined })" />
    <div v-if="problem" class="err">{{ problem }}</div>
  </div>
</template>

<style scoped>
.box {
  border: 1px solid var(--c-line);
  border-radius: 4px;
  padding: 6px 12px;
  background: var(--c-paper);
}
table {
  width: 100%;
  border-spacing: 0 4px;
}
th {
  font-size: 12px;
  color: var(--c-quiet);
  font-weight: 400;
  text-align: right;
  padding-right: 8px;
}
td input {
  text-align: right;
}
.arrow {
  text-align: center;
  color: var(--c-quiet);
  width: 34px;
}
.live td {
  color: var(--c-spruce);
  font-weight: 650;
  text-align: right;
  padding-right: 9px;
}
.live .quiet {
  font-weight: 400;
}
</style>
