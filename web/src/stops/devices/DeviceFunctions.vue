<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Device, Schemas } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldText from '../../kit/FieldText.vue'
import TagField from '../../tags/TagField.vue'
import TypedInput from '../../kit/TypedInput.vue'

// What goes on between device and server beside reading and writing: heartbeat,
// clock, and how located variables become addresses.
const props = defineProps<{ device: Device; usual: Schemas['Location'][]; problem?: string }>()
const emit = defineEmits<{ set: [field: keyof Device, value: unknown] }>()
type Beat = NonNullable<Device['heartbeat']>
type Clock = NonNullable<Device['clock']>
const beat = ref<Partial<Beat>>()
const clock = ref<Partial<Clock>>()
const nowBeat = computed(() => props.device.heartbeat ?? beat.value)
const nowClock = computed(() => props.device.clock ?? clock.value)
function setBeat(next: Partial<Beat>) {
  const b = { every: 1000, timeout: 5000, ...nowBeat.value, ...next }
  beat.value = b
  emit('set', 'heartbeat', b.out || b.in ? b : undefined)
}
function setClock(next: Partial<Clock>) {
  const c = { hours: 24, ...nowClock.value, ...next }
  clock.value = c
  emit('set', 'clock', parts.some((p) => c[p]) ? c : undefined)
}
function toggleBeat(on: boolean) {
  beat.value = on ? { every: 1000, timeout: 5000 } : undefined
  if (!on && props.device.heartbeat) emit('set', 'heartbeat', undefined)
}
function toggleClock(on: boolean) {
  clock.value = on ? { hours: 24 } : undefined
  if (!on && props.device.clock) emit('set', 'clock', undefined)
}
const parts = ['year', 'month', 'day', 'hour', 'minute', 'second', 'unix', 'set'] as const
const table = computed(() => (props.device.locate?.length ? props.device.locate : props.usual))
function locate(i: number, next: Partial<Schemas['Location']>) {
  emit(
    'set',
    'locate',
    table.value.map((l, k) => (k === i ? { ...l, ...next } : l)),
  )
}
const spaces = ['coil', 'discrete', 'input', 'holding']
const showTable = ref(false)
</script>

<template>
  <div class="all">
    <FieldCheck :label="$t('beat.title')" :model-value="!!nowBeat" @update:model-value="toggleBeat" />
    <div v-if="nowBeat" class="fields">
      <TagField
        :label="$t('beat.out')"
        :model-value="nowBeat.out ?? ''"
        @update:model-value="setBeat({ out: $event || undefined })" />
      <FieldText
        :label="$t('beat.every')"
        mono
        :model-value="nowBeat.every"
        @update:model-value="setBeat({ every: Number($event) })" />
      <TagField
        :label="$t('beat.in')"
        :model-value="nowBeat.in ?? ''"
        @update:model-value="setBeat({ in: $event || undefined })" />
      <FieldText
        :label="$t('beat.timeout')"
        mono
        :model-value="nowBeat.timeout"
        @update:model-value="setBeat({ timeout: Number($event) })" />
    </div>
    <FieldCheck :label="$t('clock.title')" :model-value="!!nowClock" @update:model-value="toggleClock" />
    <div v-if="nowClock" class="fields">
      <TagField
        v-for="p in parts"
        :key="p"
        :label="$t($word('clock', p))"
        :model-value="nowClock[p] ?? ''"
        @update:model-value="setClock({ [p]: $event || undefined })" />
      <FieldText
        :label="$t('clock.hours')"
        mono
        :model-value="nowClock.hours"
        @update:model-value="setClock({ hours: Number($event) })" />
      <FieldCheck
        :label="$t('clock.utc')"
        :model-value="nowClock.utc"
        @update:model-value="setClock({ utc: $event || undefined })" />
    </div>
    <template v-if="device.protocol === 'modbus-tcp'">
      <button class="bare link" :aria-expanded="showTable" @click="showTable = !showTable">
        {{ $t('locate.title') }}
      </button>
      <table v-if="showTable" class="locate">
        <tbody>
          <tr v-for="(l, i) in table" :key="l.prefix">
            <td class="mono">%{{ l.prefix }}</td>
            <td>
              <select
                class="plain"
                :value="l.space"
                :aria-label="$t('locate.space', { prefix: l.prefix })"
                @change="locate(i, { space: ($event.target as HTMLSelectElement).value })">
                <option v-for="s in spaces" :key="s">{{ s }}</option>
              </select>
            </td>
            <td>
              <TypedInput
                class="plain mono"
                :value="l.base"
                :aria-label="$t('locate.base', { prefix: l.prefix })"
                @change="locate(i, { base: Number(($event.target as HTMLInputElement).value) })" />
            </td>
          </tr>
        </tbody>
      </table>
    </template>
    <div v-if="problem" class="err" role="alert">{{ problem }}</div>
  </div>
</template>

<style scoped>
.all {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.link {
  color: var(--c-spruce);
}
.locate td {
  padding: 1px 4px 1px 0;
}
.locate input {
  width: 80px;
}
</style>
