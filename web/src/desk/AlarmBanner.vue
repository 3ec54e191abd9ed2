<script setup lang="ts">
import { mdiBellOffOutline } from '@mdi/js'
import { computed, toRef } from 'vue'
import AlarmTab from '../alarms/AlarmTab.vue'
import { type Board, PRIORITIES, unseen } from '../alarms/useAlarms'
import { useAlarmSound } from '../alarms/useAlarmSound'
import { clock, moment } from '../kit/moment'

/** Always on top: the worst alarm that nobody has seen, in full; how many of each priority stand; silence. */
const props = defineProps<{ board: Board | undefined; on: boolean }>()
const emit = defineEmits<{ ack: [id: string]; open: [] }>()
const { sounding, silence } = useAlarmSound(toRef(props, 'board'), toRef(props, 'on'))
const worst = computed(() => props.board?.alarms.find(unseen))
const counts = computed(() => PRIORITIES.map((p) => ({ p, n: props.board?.counts[p] ?? 0, unseen: props.board?.unseen[p] ?? 0 })).filter((c) => c.n))
</script>

<template>
  <div class="alarms" :aria-label="$t('alarm.banner')" role="region">
    <template v-if="worst">
      <AlarmTab :priority="worst.priority" :state="worst.state" />
      <button class="text" :title="worst.text" @click="emit('open')"><strong>{{ worst.path }} · {{ worst.name }}</strong><span>{{ moment(worst.raised ?? worst.since, clock) }} {{ worst.text }}</span></button>
      <button v-if="board?.mayAck" class="act" @click="emit('ack', worst.id)">{{ $t('alarm.act.acknowledged') }}</button>
      <button v-if="sounding" class="act" :aria-label="$t('alarm.silence')" :title="$t('alarm.silence')" @click="silence"><v-icon :icon="mdiBellOffOutline" /></button>
    </template>
    <button class="counts" :aria-label="$t('alarm.list')" @click="emit('open')">
      <AlarmTab v-for="c in counts" :key="c.p" :priority="c.p" :state="c.unseen ? 'unacknowledged' : 'acknowledged'" :text="String(c.n)" />
      <span v-if="!counts.length" class="none">{{ $t('alarm.none') }}</span>
    </button>
  </div>
</template>

<style scoped>
.alarms { display: flex; align-items: center; gap: 8px; min-width: 0; flex: 2; }
.text { flex: 1; min-width: 0; display: flex; flex-direction: column; align-items: flex-start; background: none; border: 0; color: inherit; cursor: pointer; text-align: left; line-height: 1.2; min-height: 44px; justify-content: center; }
.text > * { max-width: 100%; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.text strong { font-size: 15px; }
.text span { font-size: 14px; }
.act { min-height: 44px; padding: 0 12px; border: 1.5px solid var(--c-ink); border-radius: 4px; background: var(--c-sheet); color: var(--c-ink); font-size: 15px; font-weight: 650; cursor: pointer; flex: none; }
.counts { display: flex; gap: 4px; align-items: center; background: none; border: 0; cursor: pointer; min-height: 44px; flex: none; margin-left: auto; }
.none { color: var(--c-quiet); font-size: 14px; }
</style>
