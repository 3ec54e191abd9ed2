<script setup lang="ts">
import { ref } from 'vue'
import DialogBox from '../kit/DialogBox.vue'

/** What a person adds to a command when an element asks for it. */
export interface Given {
  reason: string
  sign: string
  witness: string
}

// What an element asks before it sends: to confirm, a reason, a signature.
const props = defineProps<{
  title: string
  says: string
  reason: string
  sign: string
  problem: string
  busy: boolean
}>()
const emit = defineEmits<{ send: [given: Given]; close: [] }>()
const given = ref<Given>({ reason: '', sign: '', witness: '' })
const ready = () =>
  (props.reason !== 'required' || given.value.reason.trim()) &&
  (props.sign === 'none' || given.value.sign) &&
  (props.sign !== 'second' || given.value.witness)
</script>

<template>
  <DialogBox :label="title" @close="emit('close')">
    <form class="box" @submit.prevent="ready() && emit('send', given)">
      <strong>{{ title }}</strong>
      <p class="says">{{ says }}</p>
      <label v-if="reason !== 'none'">
        {{ $t('ask.reason') }}{{ reason === 'offered' ? ' ' + $t('ask.mayBeEmpty') : '' }}
        <textarea v-model="given.reason" rows="2" maxlength="300" />
      </label>
      <label v-if="sign === 'second'">
        {{ $t('ask.witness') }}
        <input v-model="given.witness" autocomplete="off" />
      </label>
      <label v-if="sign !== 'none'">
        {{ sign === 'second' ? $t('ask.witnessPassword') : $t('ask.password') }}
        <input v-model="given.sign" type="password" autocomplete="off" />
      </label>
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
      <div class="do">
        <button type="button" @click="emit('close')">{{ $t('common.cancel') }}</button>
        <button class="go" type="submit" :disabled="!ready() || busy" autofocus>{{ $t('ask.send') }}</button>
      </div>
    </form>
  </DialogBox>
</template>

<style scoped>
.box {
  width: min(380px, 100vw);
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
textarea,
input {
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
.do {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.do button {
  min-height: 50px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  font-size: 17px;
  cursor: pointer;
  color: var(--c-ink);
}
.do .go {
  background: var(--c-spruce);
  border-color: var(--c-spruce);
  color: var(--c-on-spruce);
  font-weight: 650;
}
.do .go:disabled {
  opacity: 0.45;
}
</style>
