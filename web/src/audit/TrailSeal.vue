<script setup lang="ts">
import type { Schemas } from '../api/client'
import { dayAndTime, moment } from '../kit/moment'

// How the seals of the trail were last found, what that rests on, and how far a check is.
defineProps<{ seal: Schemas['Seal'] }>()
</script>

<template>
  <p v-if="seal.busy" class="own">
    <progress :value="seal.checked" :max="Math.max(seal.of, 1)" :aria-label="$t('audit.verify')" />
    {{ $t('audit.checking', { n: seal.checked, of: seal.of }) }}
  </p>
  <p v-else-if="seal.at" class="own" role="status">
    <span :class="seal.whole ? 'good' : 'err'">
      {{ seal.whole ? $t('audit.whole', { n: seal.records }) : seal.problem }}
    </span>
    <template v-if="seal.whole">
      <template v-if="seal.before">· {{ $t('audit.parts.before', { n: seal.before }) }}</template>
      ·
      {{
        seal.elsewhere
          ? $t('audit.head', { n: seal.head, at: moment(seal.headAt, dayAndTime), place: seal.place })
          : $t('audit.alone')
      }}
    </template>
    · {{ $t('audit.checkedAt', { at: moment(seal.at, dayAndTime) }) }}
    <span v-if="seal.unwritten" class="err">{{ $t('audit.unwritten', { why: seal.unwritten }) }}</span>
  </p>
</template>

<style scoped>
.good {
  color: var(--c-spruce);
  font-weight: 600;
}
progress {
  width: 160px;
  accent-color: rgb(var(--v-theme-primary));
  vertical-align: middle;
}
</style>
