<script setup lang="ts">
import { computed } from 'vue'
import { dayAndTime, moment } from '../kit/moment'
import LogMark from './LogMark.vue'
import { bytes } from '../kit/bytes'
import type { LogShown } from './useLogs'

// How a log stands, in a line: what it does, how much it has and since when, and
// how long its room lasts.
const props = defineProps<{ log: LogShown }>()
/** Days until its bound of size is reached, as it goes now. */
const days = computed(() => {
  const { def, daily, bytes: has } = props.log
  const most = (def?.keep.mb ?? 0) * 1e6
  return most && daily ? Math.max(0, (most - has) / daily) : undefined
})
</script>

<template>
  <div class="facts">
    <LogMark :state="log.state" />
    <span v-if="log.why">{{ $t($word('log.why', log.why)) }}</span>
    <span v-if="log.state === 'draft'" class="quiet">{{ $t('log.fromRelease') }}</span>
    <span v-if="log.person" class="quiet">
      {{ $t('log.by', { person: log.person, at: moment(log.since, dayAndTime) }) }}
    </span>
    <span v-if="log.count">
      {{ $t('log.has', { n: log.count.toLocaleString(), size: bytes(log.bytes) }) }}
      <span class="quiet">{{ $t('log.since', { at: moment(log.first, dayAndTime) }) }}</span>
    </span>
    <span v-else-if="log.state !== 'draft' && log.state !== 'gone'" class="quiet">
      {{ $t('log.nothing') }}
    </span>
    <span v-if="log.export?.busy">
      {{ $t('log.writing', { percent: Math.floor(log.export.share * 100) }) }}
    </span>
    <span v-else-if="log.export?.problem" class="low" role="alert">{{ log.export.problem }}</span>
    <span v-else-if="log.export?.file" class="quiet">
      {{ $t('log.written', { file: log.export.file }) }}
      <template v-if="log.export.files > 1">{{ $t('log.andMore', { n: log.export.files - 1 }) }}</template>
    </span>
    <span v-else-if="log.exported" class="quiet">
      {{ $t('log.exported', { at: moment(log.exported, dayAndTime) }) }}
    </span>
    <strong v-if="log.finished">{{ $t('log.finished', { folder: log.folder }) }}</strong>
    <span v-if="log.free < 0.995" :class="{ low: log.free < 0.1 }">
      {{ $t('log.free', { percent: Math.floor(log.free * 100) }) }}
    </span>
    <span v-if="days !== undefined && days < 3650" class="quiet">
      {{ $t('log.full', { n: Math.floor(days) }) }}
    </span>
  </div>
</template>

<style scoped>
.facts {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  font-size: 14px;
}
.low {
  color: var(--c-error);
  font-weight: 600;
}
</style>
