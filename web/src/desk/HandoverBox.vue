<script setup lang="ts">
import { ref } from 'vue'
import { sentence } from '../api/client'
import DialogBox from '../kit/DialogBox.vue'
import { dayAndTime, moment } from '../kit/moment'
import BoxFoot from './BoxFoot.vue'
import type { Handover, Handovers } from './useHandovers'

// What the last shift says to this one, to be taken over, or a note to the next; with
// the notes before.
const props = defineProps<{ handovers: Handovers; taking?: Handover }>()
const emit = defineEmits<{ close: [] }>()
const text = ref('')
const problem = ref('')
const busy = ref(false)
const MOST = 2000
async function go() {
  if (busy.value || (!props.taking && !text.value.trim())) return
  busy.value = true
  try {
    await (props.taking ? props.handovers.take(props.taking.seq) : props.handovers.leave(text.value))
    emit('close')
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
const before = () => props.handovers.list.value.filter((h) => h.seq !== props.taking?.seq).slice(0, 10)
</script>

<template>
  <DialogBox :label="$t('handover.title')" @close="emit('close')">
    <form class="box" @submit.prevent="go">
      <h2>{{ $t('handover.title') }}</h2>
      <template v-if="taking">
        <p class="quiet">
          {{ $t('handover.of', { name: taking.name, at: moment(taking.at, dayAndTime) }) }}
        </p>
        <p class="text">{{ taking.text }}</p>
      </template>
      <label v-else>
        {{ $t('handover.next') }}
        <textarea v-model="text" rows="5" :maxlength="MOST" autofocus />
      </label>
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
      <details v-if="before().length" class="before">
        <summary>{{ $t('handover.before') }}</summary>
        <div v-for="h in before()" :key="h.seq">
          <span class="quiet">
            {{ $t('handover.of', { name: h.name, at: moment(h.at, dayAndTime) }) }}
            ·
            {{
              h.takenAt
                ? $t('handover.taken', { name: h.takenBy, at: moment(h.takenAt, dayAndTime) })
                : $t('handover.open')
            }}
          </span>
          <p class="text">{{ h.text }}</p>
        </div>
      </details>
      <BoxFoot
        :close="$t(taking ? 'handover.later' : 'common.cancel')"
        :go="$t(taking ? 'handover.take' : 'handover.leave')"
        :shut="busy || (!taking && !text.trim())"
        @close="emit('close')" />
    </form>
  </DialogBox>
</template>

<style scoped>
.box {
  width: min(560px, 100vw);
  max-height: 100dvh;
  overflow: auto;
  box-sizing: border-box;
  padding: 18px;
  display: grid;
  gap: 12px;
  font-size: 16px;
}
h2,
p {
  margin: 0;
}
h2 {
  font-size: 18px;
}
.text {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font-size: 17px;
}
label {
  display: grid;
  gap: 4px;
  font-size: 14px;
  color: var(--c-field-quiet);
}
textarea {
  font: inherit;
  font-size: 17px;
  padding: 8px 10px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-paper);
  color: var(--c-ink);
}
.before > div {
  padding: 8px 0;
  border-top: 1px solid var(--c-line);
}
summary {
  min-height: 44px;
  display: flex;
  align-items: center;
  cursor: pointer;
}
</style>
