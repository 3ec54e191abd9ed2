<script setup lang="ts">
import { mdiBellOffOutline } from '@mdi/js'
import { computed, toRef } from 'vue'
import { useI18n } from 'vue-i18n'
import AlarmTab from '../alarms/AlarmTab.vue'
import { type Board, PRIORITIES, unseen } from '../alarms/useAlarms'
import { useAlarmSound } from '../alarms/useAlarmSound'
import { clock, moment } from '../kit/moment'
import PathText from '../kit/PathText.vue'

/** Always on top: the worst alarm that nobody has seen, in full; how many of each priority stand; silence. */
const props = defineProps<{ board: Board | undefined; on: boolean; unsure: boolean; problem: string }>()
const { t } = useI18n({ useScope: 'global' })
const emit = defineEmits<{ ack: [id: string]; open: [] }>()
const { sounding, mute, silence } = useAlarmSound(toRef(props, 'board'), toRef(props, 'on'))
const worst = computed(() => props.board?.alarms.find(unseen))
const counts = computed(() =>
  PRIORITIES.map((p) => ({ p, n: props.board?.counts[p] ?? 0, unseen: props.board?.unseen[p] ?? 0 })).filter(
    (c) => c.n,
  ),
)
/** What stands on the button that opens the list, and what it opens. */
const tally = computed(() =>
  [
    ...(counts.value.length || props.unsure ? counts.value.map((c) => c.n) : [t('alarm.none')]),
    t('alarm.list'),
  ].join(' '),
)
</script>

<template>
  <div class="alarms" :class="{ unsure }" :aria-label="$t('alarm.banner')" role="region">
    <span v-if="unsure" class="say" role="alert">{{ problem || $t('alarm.unsure') }}</span>
    <span v-if="board?.unrecorded" class="say loud" role="alert">
      {{ $t('alarm.unrecorded', { n: board.unrecorded }) }}
    </span>
    <template v-if="worst">
      <AlarmTab class="worst" :priority="worst.priority" :state="worst.state" />
      <button class="text" :title="worst.text" @click="emit('open')">
        <strong><PathText :path="`${worst.path} · ${worst.name}`" /></strong>
        <span>{{ moment(worst.raised ?? worst.since, clock) }} {{ worst.text }}</span>
      </button>
      <button v-if="board?.mayAck && !unsure" class="act" @click="emit('ack', worst.id)">
        {{ $t('alarm.act.acknowledged') }}
      </button>
      <span v-if="sounding && mute" class="say">{{ $t('alarm.mute') }}</span>
      <button
        v-else-if="sounding"
        class="act"
        :aria-label="$t('alarm.silence')"
        :title="$t('alarm.silence')"
        @click="silence">
        <v-icon :icon="mdiBellOffOutline" />
      </button>
    </template>
    <button class="counts" :aria-label="tally" @click="emit('open')">
      <AlarmTab
        v-for="c in counts"
        :key="c.p"
        :priority="c.p"
        :state="c.unseen ? 'unacknowledged' : 'acknowledged'"
        :text="String(c.n)" />
      <span v-if="!counts.length && !unsure" class="none">{{ $t('alarm.none') }}</span>
    </button>
  </div>
</template>

<style scoped>
.alarms {
  display: flex;
  align-items: center;
  gap: 8px;
  min-width: 0;
  flex: 2;
}
.text {
  flex: 1;
  min-width: 132px;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  background: none;
  border: 0;
  color: inherit;
  cursor: pointer;
  text-align: left;
  line-height: 1.2;
  min-height: 44px;
  justify-content: center;
}
.text > * {
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.text strong {
  font-size: 15px;
}
.text span {
  font-size: 14px;
}
.act {
  min-height: 44px;
  min-width: 44px;
  padding: 0 12px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 15px;
  font-weight: 650;
  cursor: pointer;
  flex: none;
}
.counts {
  display: flex;
  gap: 4px;
  align-items: center;
  background: none;
  border: 0;
  cursor: pointer;
  min-height: 44px;
  flex: none;
  margin-left: auto;
}
.unsure .worst,
.unsure .text,
.unsure .counts {
  opacity: 0.4;
  filter: grayscale(1);
  background-image: repeating-linear-gradient(-45deg, var(--c-line) 0 2px, transparent 2px 9px);
}
.alarms:has(.say) .worst :deep(.word) {
  display: none;
}
.say {
  flex: 0 0 auto;
  max-width: 134px;
  line-height: 1.15;
  font-size: 14px;
  font-weight: 650;
  padding: 4px 10px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
}
.loud {
  border: 2px solid var(--c-critical);
}
.counts {
  min-width: 44px;
}
@media (max-width: 860px) {
  .worst :deep(.word) {
    display: none;
  }
  .text span {
    font-size: 13px;
  }
}
@media (max-width: 720px) {
  .act {
    padding: 0 8px;
    font-size: 14px;
  }
  .alarms {
    gap: 5px;
  }
}
.none {
  color: var(--c-quiet);
  font-size: 14px;
}
</style>
