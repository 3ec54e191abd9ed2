<script setup lang="ts">
import { computed, ref } from 'vue'
import { useSession } from '../api/session'

// One signature: who signs, chosen from the panel's people where it has any, and
// their secret.
defineProps<{ legend: string; named: boolean }>()
const signature = defineModel<{ name: string; secret: string }>({ required: true })
const session = useSession()
const tiles = computed(() => session.me?.tiles ?? [])
const typing = ref(false)
function pick(name: string) {
  typing.value = name === '?'
  signature.value.name = typing.value ? '' : name
}
</script>

<template>
  <fieldset>
    <legend>{{ legend }}</legend>
    <div class="two">
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
