<script setup lang="ts">
import { ref } from 'vue'
import { sentence, type Schemas } from '../api/client'
import DialogBox from '../kit/DialogBox.vue'
import { dayAndTime, moment } from '../kit/moment'
import type { AreaControl, Control } from './useControl'

// The areas in which one place at a time acts: who has each, and what whoever is here
// can do about it.
const props = defineProps<{ control: Control }>()
const emit = defineEmits<{ close: [] }>()
const problem = ref('')
const busy = ref(false)
/** The area that is being taken away, with why. */
const taking = ref('')
const reason = ref('')
type Do = Schemas['ControlOrder']['do']

/** What can be done about an area from here, the usual first. */
function acts(c: AreaControl): Do[] {
  if (c.holder?.mine) return c.asks ? ['give', 'keep', 'leave'] : ['leave']
  if (!c.holder?.there) return c.acts ? ['take'] : []
  return [...(c.acts && !c.asks ? (['ask'] as const) : []), ...(c.away ? (['away'] as const) : [])]
}
async function go(c: AreaControl, act: Do) {
  if (act === 'away' && taking.value !== c.area) {
    taking.value = c.area
    return
  }
  if (busy.value || (act === 'away' && !reason.value.trim())) return
  busy.value = true
  problem.value = ''
  try {
    const why = act === 'away' ? reason.value : undefined
    await props.control.order(c.area, { do: act, ask: c.asks?.number, reason: why })
    taking.value = ''
    if (act !== 'ask') emit('close')
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <DialogBox :label="$t('control.title')" @close="emit('close')">
    <div class="box">
      <h2>{{ $t('control.title') }}</h2>
      <p class="quiet">{{ $t('control.why') }}</p>
      <div v-for="c in control.mine.value" :key="c.area" class="one">
        <div class="who">
          <strong>{{ c.name }}</strong>
          <span v-if="c.holder">
            {{ c.holder.mine ? $t('control.here') : c.holder.name }}
            <template v-if="c.holder.panel">· {{ c.holder.panel }}</template>
            · {{ $t('control.since', { at: moment(c.holder.since, dayAndTime) }) }}
            <template v-if="!c.holder.there">· {{ $t('control.left') }}</template>
          </span>
          <span v-else>{{ $t('control.nobody') }}</span>
          <span v-if="c.asks" class="asks">
            {{
              c.asks.mine
                ? $t('control.waits')
                : $t('control.asks', { name: c.asks.name, place: c.asks.panel || '—' })
            }}
          </span>
        </div>
        <form v-if="taking === c.area" class="away" @submit.prevent="go(c, 'away')">
          <label>
            {{ $t('control.reason') }}
            <input v-model="reason" maxlength="300" autofocus />
          </label>
        </form>
        <div class="acts">
          <button
            v-for="act in acts(c)"
            :key="act"
            type="button"
            :class="{ usual: ['take', 'ask', 'give'].includes(act) }"
            :disabled="busy || (taking === c.area && act === 'away' && !reason.trim())"
            @click="go(c, act)">
            {{ $t(`control.do.${act}`) }}
          </button>
        </div>
      </div>
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
      <button type="button" class="close" @click="emit('close')">{{ $t('notice.close') }}</button>
    </div>
  </DialogBox>
</template>

<style scoped>
.box {
  width: min(560px, 100vw);
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
.one {
  display: grid;
  gap: 8px;
  padding: 10px 0;
  border-top: 1px solid var(--c-line);
}
.who {
  display: grid;
  overflow-wrap: anywhere;
}
.asks {
  font-weight: 650;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
}
button {
  min-height: 48px;
  padding: 0 16px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 16px;
  font-weight: 600;
  cursor: pointer;
}
button:disabled {
  opacity: 0.45;
}
.acts .usual {
  background: var(--c-spruce);
  border-color: var(--c-spruce);
  color: var(--c-on-spruce);
}
label {
  display: grid;
  gap: 4px;
  font-size: 14px;
  color: var(--c-field-quiet);
}
input {
  font: inherit;
  font-size: 17px;
  min-height: 44px;
  padding: 0 10px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-paper);
  color: var(--c-ink);
}
</style>
