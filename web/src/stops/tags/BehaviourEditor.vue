<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import FormulaInput from '../../kit/FormulaInput.vue'
import { useCatalogue } from '../../rail/catalogue'
import TagField from '../../tags/TagField.vue'

// What a tag does on a stand-in: suggested from the tag, or its own.
type Behaviour = Schemas['Behaviour']
const props = defineProps<{ behaviour: Behaviour; own: boolean; problem?: string }>()
const emit = defineEmits<{ set: [b: Behaviour | undefined] }>()
const catalogue = useCatalogue()
const b = computed(() => props.behaviour)
const has = (field: string) =>
  (
    ({
      low: 'hold follow ramp sine square walk counter',
      high: 'follow ramp sine square walk counter',
      period: 'ramp sine square counter',
      lag: 'follow',
      step: 'walk counter',
    })[field] ?? ''
  )
    .split(' ')
    .includes(b.value.kind)
function change(next: Partial<Behaviour>) {
  emit('set', { ...b.value, ...next })
}
function kind(k: string) {
  const next: Behaviour = { ...b.value, kind: k }
  if (['ramp', 'sine', 'square', 'counter'].includes(k)) next.period ||= 10
  if (['ramp', 'sine', 'square', 'walk'].includes(k) && (next.high ?? 0) <= (next.low ?? 0))
    next.high = (next.low ?? 0) + 100
  if (k === 'formula') next.formula ||= '0'
  if (k === 'playback') next.recording ||= '0,0\n10,1\n'
  emit('set', next)
}
const number = (field: keyof Behaviour) => (v: string) =>
  change({ [field]: v.trim() === '' ? undefined : Number(v.replace(',', '.')) })
async function file(e: Event) {
  const f = (e.target as HTMLInputElement).files?.[0]
  if (f) change({ recording: await f.text() })
}
</script>

<template>
  <div class="box">
    <div class="head">
      <strong>{{ $t('behaviour.title') }}</strong>
      <button v-if="own" class="bare quiet" @click="emit('set', undefined)">
        {{ $t('behaviour.suggested') }}
      </button>
      <span v-else class="quiet small">{{ $t('behaviour.isSuggested') }}</span>
    </div>
    <div class="fields three">
      <FieldSelect
        class="wide"
        :label="$t('behaviour.kind')"
        :model-value="b.kind"
        :options="catalogue.behaviours.map((k) => ({ value: k, title: $t('behaviour.' + k) }))"
        @update:model-value="kind" />
      <FieldText
        v-if="has('low')"
        :label="b.kind === 'hold' ? $t('behaviour.start') : $t('behaviour.low')"
        mono
        :model-value="b.low ?? 0"
        @update:model-value="number('low')($event)" />
      <FieldText
        v-if="has('high')"
        :label="$t('behaviour.high')"
        mono
        :model-value="b.high ?? 0"
        @update:model-value="number('high')($event)" />
      <FieldText
        v-if="has('period')"
        :label="$t('behaviour.period')"
        mono
        :model-value="b.period"
        @update:model-value="number('period')($event)" />
      <FieldText
        v-if="has('lag')"
        :label="$t('behaviour.lag')"
        mono
        :model-value="b.lag ?? 0"
        @update:model-value="number('lag')($event)" />
      <FieldText
        v-if="has('step')"
        :label="$t('behaviour.step')"
        mono
        :model-value="b.step ?? 0"
        @update:model-value="number('step')($event)" />
    </div>
    <TagField
      v-if="b.kind === 'follow'"
      :label="$t('behaviour.follows')"
      :model-value="b.tag ?? ''"
      @update:model-value="change({ tag: $event })" />
    <FormulaInput
      v-if="b.kind === 'formula'"
      :label="$t('tags.formula')"
      :model-value="b.formula ?? ''"
      @update:model-value="change({ formula: $event })" />
    <label v-if="b.kind === 'playback'" class="quiet small">
      {{ $t('behaviour.recording') }}
      <textarea
        class="plain mono"
        rows="4"
        :value="b.recording"
        @change="change({ recording: ($event.target as HTMLTextAreaElement).value })" />
      <input type="file" accept=".csv,.txt" @change="file" />
    </label>
    <div v-if="problem" class="err" role="alert">{{ problem }}</div>
  </div>
</template>

<style scoped>
.box {
  border: 1px solid var(--c-line);
  border-radius: 4px;
  padding: 6px 12px 10px;
  background: var(--c-paper);
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.head {
  display: flex;
  justify-content: space-between;
}
.three {
  grid-template-columns: 1fr 1fr 1fr;
}
.small {
  font-size: 12px;
}
textarea {
  width: 100%;
  box-sizing: border-box;
  resize: vertical;
}
</style>
