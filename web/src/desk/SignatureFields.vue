<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useSession } from '../api/session'
import DigitRow from './DigitRow.vue'
import { useVisit } from './useVisit'

// One signature: who signs, chosen from the panel's people where it has any, and
// their secret; or a visit to the company's directory in the place of both.
const props = defineProps<{ legend: string; named: boolean; second?: boolean }>()
const signature = defineModel<{ name: string; secret: string }>({ required: true })
const session = useSession()
const tiles = computed(() => session.me?.tiles ?? [])
const typing = ref(false)
/**
 * Whether it is the one that is filled in: then its digits show. They stay as the focus goes on to
 * what sends, which must not move under the finger.
 */
const here = ref(false)
function left(e: FocusEvent) {
  const to = (e.relatedTarget as HTMLElement | null)?.closest('fieldset')
  if (to && to !== e.currentTarget) here.value = false
}
const visit = useVisit()
const directory = computed(() => {
  const d = session.me?.directory
  return d?.kind === 'openid' && (props.second || session.me?.person?.directory) ? d : undefined
})
/** The full name of who proved it at the directory. */
const proved = ref('')
async function go(blocked: string) {
  const by = await visit.begin(blocked)
  if (!by) return
  signature.value.name = by.name
  signature.value.secret = by.ticket
  proved.value = by.fullName
}
// One that was refused is given anew.
watch(
  () => signature.value.secret,
  (secret) => {
    if (!secret) proved.value = ''
  },
)
function pick(name: string) {
  typing.value = name === '?'
  signature.value.name = typing.value ? '' : name
}
</script>

<template>
  <fieldset @focusin="here = true" @focusout="left">
    <legend>{{ legend }}</legend>
    <p v-if="proved" class="proved" role="status">{{ $t('directory.proved', { name: proved }) }}</p>
    <div v-else class="two">
      <label v-if="named && tiles.length && !typing">
        {{ $t('ask.name') }}
        <select :value="signature.name" @change="pick(($event.target as HTMLSelectElement).value)">
          <option value="" />
          <option v-for="p in tiles" :key="p.name" :value="p.name">{{ p.fullName }}</option>
          <option value="?">{{ $t('ask.other') }}</option>
        </select>
      </label>
      <label v-else-if="named">
        {{ $t('ask.name') }}
        <input v-model="signature.name" autocomplete="off" autocapitalize="none" spellcheck="false" />
      </label>
      <label>
        {{ $t(session.me?.panel ? 'ask.pin' : 'ask.password') }}
        <input v-model="signature.secret" type="password" autocomplete="off" />
      </label>
    </div>
    <DigitRow v-if="session.me?.panel && here && !proved" v-model="signature.secret" />
    <div v-if="directory && !proved" class="visit">
      <button type="button" class="by" :disabled="visit.waiting.value" @click="go($t('directory.blocked'))">
        {{ $t(visit.waiting.value ? 'directory.waiting' : 'directory.sign', { title: directory.title }) }}
      </button>
      <button v-if="visit.waiting.value" type="button" class="by" @click="visit.stop()">
        {{ $t('common.cancel') }}
      </button>
      <p v-if="visit.refused.value" class="problem" role="alert">{{ visit.refused.value }}</p>
    </div>
  </fieldset>
</template>

<style scoped>
fieldset {
  margin: 0;
  padding: 0;
  border: none;
}
legend {
  padding: 0 0 6px;
  font-weight: 650;
}
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(170px, 1fr));
  gap: 8px;
}
.proved {
  margin: 0;
  font-size: 17px;
  font-weight: 650;
}
.visit {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 8px;
}
.by {
  min-height: 44px;
  padding: 0 14px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font: inherit;
  cursor: pointer;
}
.by:disabled {
  border-style: dashed;
  cursor: default;
}
label {
  display: grid;
  gap: 4px;
  font-size: 14px;
  color: var(--c-field-quiet);
}
input,
select {
  font: inherit;
  font-size: 17px;
  padding: 8px 10px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-paper);
  color: var(--c-ink);
  min-height: 44px;
  width: 100%;
  box-sizing: border-box;
}
</style>
