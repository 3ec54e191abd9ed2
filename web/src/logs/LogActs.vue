<script setup lang="ts">
import { computed } from 'vue'
import NameBox from '../kit/NameBox.vue'
import type { LogAct, LogShown } from './useLogs'

// What a person who may can do to a log that is at work.
const props = defineProps<{ log: LogShown }>()
const emit = defineEmits<{ act: [act: LogAct, text?: string] }>()
const works = computed(() => ['on', 'waiting', 'failing'].includes(props.log.state))
const there = computed(() => props.log.may && !['draft', 'gone'].includes(props.log.state))
</script>

<template>
  <template v-if="there">
    <button v-if="works" class="chip" @click="emit('act', 'stop')">{{ $t('log.act.stop') }}</button>
    <button v-else class="chip on" @click="emit('act', 'start')">{{ $t('log.act.start') }}</button>
    <button class="chip" :disabled="log.state !== 'on'" @click="emit('act', 'take')">
      {{ $t('log.act.take') }}
    </button>
    <NameBox :label="$t('log.act.mark')" :hint="$t('log.markName')" @named="emit('act', 'mark', $event)" />
    <button v-if="log.folder" class="chip" :disabled="log.export?.busy" @click="emit('act', 'export')">
      {{ $t('log.act.export') }}
    </button>
    <button
      v-if="log.folder && log.exported"
      class="chip"
      :disabled="log.export?.busy || log.finished"
      @click="emit('act', 'finish')">
      {{ $t('log.act.finish') }}
    </button>
    <NameBox
      v-if="log.exported"
      :label="$t('log.act.clear')"
      :hint="$t('log.clearWhy')"
      @named="emit('act', 'clear', $event)" />
  </template>
</template>
