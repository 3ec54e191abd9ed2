<script setup lang="ts">
import { computed } from 'vue'
import type { Tag } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import FormulaInput from '../../kit/FormulaInput.vue'
import type { TagValue } from '../../live/useTagValues'
import { useProject } from '../../rail/project'
import PlausibleRange from './PlausibleRange.vue'
import ScaleEditor from './ScaleEditor.vue'
import StateNames from './StateNames.vue'

// What a tag is beyond its name, type and address: the same for one tag, for
// what several share, for those that are made in bulk, and for a type's member.
const props = defineProps<{
  tag: Tag
  value?: TagValue
  /** What stands in a field on which several differ. */
  hint?: (field: keyof Tag) => string | undefined
  problem?: (field: string) => string | undefined
  /** Names that a formula may hold, where it belongs to a type. */
  plain?: boolean
}>()
const emit = defineEmits<{ set: [field: keyof Tag, value: unknown] }>()
const project = useProject()
const number = computed(() => props.tag.type !== 'BOOL' && !props.tag.type.startsWith('STRING'))
const device = computed(() => project.devices.find((d) => d.id === props.tag.device))
const modbus = computed(() => !device.value || device.value.protocol === 'modbus-tcp')
const says = (field: string) => props.problem?.(field)
const differs = (field: keyof Tag) => props.hint?.(field)
const set = (field: keyof Tag, v: unknown) => emit('set', field, v === '' ? undefined : v)
const numeric = (field: keyof Tag) => (v: string) =>
  set(field, v.trim() === '' ? undefined : Number(v.replace(',', '.')))
</script>

<template>
  <div v-if="tag.source === 'device'" class="fields">
    <FieldText
      :label="$t('tags.poll')"
      mono
      :model-value="tag.poll"
      :placeholder="differs('poll') ?? $t('tags.asDevice')"
      :problem="says('poll')"
      @update:model-value="numeric('poll')($event)" />
    <FieldSelect
      v-if="modbus"
      :label="$t('devices.order')"
      :model-value="tag.order ?? ''"
      :options="
        (['', 'ABCD', 'CDAB', 'BADC', 'DCBA'] as const).map((v) => ({
          value: v,
          title: v ? $t($word('order', v)) : (differs('order') ?? $t('tags.asDevice')),
        }))
      "
      @update:model-value="set('order', $event)" />
  </div>
  <div v-if="tag.source === 'internal'" class="fields">
    <FieldText
      :label="$t('tags.initial')"
      mono
      :model-value="tag.initial"
      :placeholder="differs('initial')"
      :problem="says('initial')"
      @update:model-value="set('initial', $event)" />
    <FieldCheck
      :label="$t('tags.retain')"
      :model-value="tag.retain"
      @update:model-value="set('retain', $event || undefined)" />
  </div>
  <FieldText
    v-if="tag.source === 'computed' && plain"
    mono
    :label="$t('tags.formula')"
    :model-value="tag.formula"
    :placeholder="differs('formula')"
    :problem="says('formula')"
    @update:model-value="set('formula', $event)" />
  <FormulaInput
    v-else-if="tag.source === 'computed'"
    :label="$t('tags.formula')"
    :model-value="tag.formula ?? ''"
    :placeholder="differs('formula')"
    @update:model-value="set('formula', $event)" />
  <ScaleEditor
    v-if="number && tag.source === 'device'"
    :tag="tag"
    :value="value"
    :problem="says('scale')"
    :differs="differs('scale')"
    @set="set('scale', $event)" />
  <PlausibleRange
    v-if="number && tag.source === 'device'"
    :tag="tag"
    :problem="says('plausible')"
    @set="set('plausible', $event)" />
  <FieldCheck
    v-if="tag.type === 'BOOL' && tag.source === 'device'"
    :label="$t('tags.invert')"
    :model-value="tag.invert"
    @update:model-value="set('invert', $event || undefined)" />
  <div v-if="number" class="fields three">
    <slot name="limits">
      <FieldText
        :label="$t('tags.low')"
        mono
        :model-value="tag.low"
        :placeholder="differs('low')"
        :problem="says('low')"
        @update:model-value="numeric('low')($event)" />
      <FieldText
        :label="$t('tags.high')"
        mono
        :model-value="tag.high"
        :placeholder="differs('high')"
        :problem="says('high')"
        @update:model-value="numeric('high')($event)" />
    </slot>
    <FieldText
      :label="$t('tags.decimals')"
      mono
      :model-value="tag.decimals"
      :placeholder="differs('decimals')"
      :problem="says('decimals')"
      @update:model-value="numeric('decimals')($event)" />
    <FieldText
      :label="$t('tags.unit')"
      :model-value="tag.unit"
      :placeholder="differs('unit')"
      :problem="says('unit')"
      @update:model-value="set('unit', $event)" />
    <FieldText
      :label="$t('tags.step')"
      mono
      :model-value="tag.step || undefined"
      :placeholder="differs('step')"
      :problem="says('step')"
      @update:model-value="numeric('step')($event)" />
  </div>
  <slot />
  <StateNames
    v-if="!tag.type.startsWith('STRING') && !tag.type.endsWith('REAL')"
    :states="tag.states ?? []"
    :problem="says('states')"
    :differs="differs('states')"
    @set="set('states', $event.length ? $event : undefined)" />
</template>

<style scoped>
.three {
  grid-template-columns: 1fr 1fr 1fr;
}
</style>
