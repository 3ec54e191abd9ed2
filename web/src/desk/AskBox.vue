<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import DialogBox from '../kit/DialogBox.vue'
import { useArrows } from '../kit/useArrows'
import BoxFoot from './BoxFoot.vue'
import SignatureFields from './SignatureFields.vue'

/** What is asked before something is sent, as the server says it. */
export type Asks = Schemas['Asks']
/** What a person answers. */
export interface Given {
  answered: true
  minutes?: number // that it lasts
  reason?: string
  signatures?: Schemas['Signature'][]
}

// What is asked before something is sent: to confirm, a reason, and signatures: first
// that of who acts, then that of a second person.
const props = defineProps<{
  title: string
  says: string
  go?: string // stands on what sends it
  longest?: number // minutes that it may last at most
  asks: Asks
  problem: string
  busy: boolean
}>()
const emit = defineEmits<{ send: [given: Given]; close: [] }>()
const form = ref<HTMLElement>()
useArrows(form)
const choices = computed(() => props.asks.reasons ?? [])
const reason = ref('')
const times = [15, 30, 60, 120, 240, 480, 1440].filter((m) => m <= (props.longest ?? 0))
const minutes = ref(props.longest && (times.includes(60) ? 60 : (times.at(-1) ?? props.longest)))
const own = ref({ name: '', secret: '' })
const second = ref({ name: '', secret: '' })
const signsOwn = computed(() => props.asks.sign === 'own' || props.asks.sign === 'both')
const signsSecond = computed(() => props.asks.sign === 'second' || props.asks.sign === 'both')
const ready = computed(
  () =>
    (props.asks.reason !== 'required' || !!reason.value.trim()) &&
    (!signsOwn.value || (!!own.value.secret && (!props.asks.name || !!own.value.name.trim()))) &&
    (!signsSecond.value || (!!second.value.secret && !!second.value.name.trim())),
)
// A secret that was refused is entered anew.
watch(
  () => props.problem,
  (now) => {
    if (now) own.value.secret = second.value.secret = ''
  },
)
function send() {
  if (!ready.value || props.busy) return
  const signatures = [...(signsOwn.value ? [own.value] : []), ...(signsSecond.value ? [second.value] : [])]
  emit('send', {
    answered: true,
    minutes: minutes.value,
    reason: reason.value.trim() || undefined,
    signatures: signatures.length ? signatures.map((s) => ({ ...s, name: s.name.trim() })) : undefined,
  })
}
</script>

<template>
  <DialogBox :label="title" @close="emit('close')">
    <form ref="form" class="box" @submit.prevent="send">
      <strong>{{ title }}</strong>
      <p class="says">{{ says }}</p>
      <div v-if="times.length" class="times" role="radiogroup" :aria-label="$t('alarm.howLong')">
        <button
          v-for="m in times"
          :key="m"
          type="button"
          role="radio"
          :aria-checked="minutes === m"
          :class="{ on: minutes === m }"
          @click="minutes = m">
          {{ m < 60 ? `${m} min` : `${m / 60} h` }}
        </button>
      </div>
      <fieldset v-if="asks.reason && choices.length" class="choices">
        <legend>
          {{ $t('ask.choose') }}{{ asks.reason === 'offered' ? ' ' + $t('ask.mayBeEmpty') : '' }}
        </legend>
        <label v-for="c in choices" :key="c" class="choice" :class="{ on: reason === c }">
          <input v-model="reason" type="radio" name="reason" :value="c" />
          {{ c }}
        </label>
      </fieldset>
      <label v-else-if="asks.reason">
        {{ $t('ask.reason') }}{{ asks.reason === 'offered' ? ' ' + $t('ask.mayBeEmpty') : '' }}
        <textarea v-model="reason" rows="2" maxlength="300" @keydown.enter.exact.prevent="send" />
      </label>
      <p v-if="asks.meanings?.length" class="says">
        {{ $t('ask.means', { text: asks.meanings.join(', ') }) }}
      </p>
      <SignatureFields v-if="signsOwn" v-model="own" :legend="$t('ask.own')" :named="asks.name" />
      <SignatureFields
        v-if="signsSecond"
        v-model="second"
        :legend="
          asks.roleNames.length ? $t('ask.secondRole', { role: asks.roleNames.join(', ') }) : $t('ask.second')
        "
        named
        second />
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
      <BoxFoot
        :close="$t('common.cancel')"
        :go="go ?? $t('ask.send')"
        :shut="!ready || busy"
        @close="emit('close')" />
    </form>
  </DialogBox>
</template>

<style scoped>
.box {
  width: min(400px, 100vw);
  max-height: 100dvh;
  overflow: auto;
  box-sizing: border-box;
  padding: 18px;
  display: grid;
  gap: 12px;
}
.box strong {
  font-size: 18px;
}
.says {
  margin: 0;
  font-size: 18px;
}
label {
  display: grid;
  gap: 4px;
  font-size: 14px;
  color: var(--c-field-quiet);
}
fieldset {
  display: grid;
  gap: 8px;
  margin: 0;
  padding: 0;
  border: none;
}
legend {
  padding: 0 0 6px;
  font-weight: 650;
}
@media (max-height: 600px) {
  .box {
    width: min(760px, 100vw);
    gap: 8px;
  }
  .choices {
    grid-template-columns: repeat(auto-fit, minmax(220px, 1fr));
  }
}
.choice {
  grid-template-columns: auto 1fr;
  align-items: center;
  gap: 10px;
  min-height: 44px;
  padding: 0 12px;
  font-size: 17px;
  color: var(--c-ink);
  border: 1.5px solid var(--c-line);
  border-radius: 4px;
  cursor: pointer;
}
.choice.on {
  border-color: var(--c-spruce);
  font-weight: 650;
}
.choice input {
  min-height: 0;
  width: 20px;
  height: 20px;
  accent-color: var(--c-spruce);
}
.times {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.times button {
  min-height: 44px;
  padding: 0 14px;
  border: 1.5px solid var(--c-line);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 16px;
  cursor: pointer;
}
.times .on {
  border-color: var(--c-spruce);
  background: var(--c-tint);
}
textarea {
  font: inherit;
  font-size: 17px;
  padding: 8px 10px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-paper);
  color: var(--c-ink);
  min-height: 44px;
  box-sizing: border-box;
}
</style>
