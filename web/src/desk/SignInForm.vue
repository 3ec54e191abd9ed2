<script setup lang="ts">
import { computed, ref } from 'vue'
import { sentence } from '../api/client'
import { useSession } from '../api/session'
import FieldText from '../kit/FieldText.vue'
import PinPad from './PinPad.vue'

// At a panel: a name tile and a PIN. Elsewhere, or by choice: name and password.
// What follows is called, not emitted: signing in may take this form away first.
const props = defineProps<{ done: () => void; who?: string }>()
const session = useSession()
const byPassword = ref(false)
const name = ref('')
const password = ref('')
const chosen = ref<{ name: string; fullName: string }>()
const problem = ref('')
const busy = ref(false)
const tiles = computed(() => session.me?.tiles ?? [])
chosen.value = tiles.value.find((p) => p.name === props.who)
const own = ref({ password: '', pin: '' })
async function choose() {
  problem.value = ''
  busy.value = true
  try {
    await session.choose({ password: own.value.password || undefined, pin: own.value.pin || undefined })
    props.done()
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
const pad = computed(() => tiles.value.length > 0 && !byPassword.value)

async function go(who: string, secret: { password?: string; pin?: string }) {
  problem.value = ''
  if (!who || !(secret.pin || secret.password)) return
  busy.value = true
  try {
    await session.signIn(who, secret)
    if (!session.me?.person?.choose) props.done()
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
function choosePin(pin: string) {
  own.value.pin = pin
  return choose()
}
function pickTile(tile: typeof chosen.value) {
  chosen.value = tile
  problem.value = ''
}
</script>

<template>
  <div class="sign">
    <h2>
      {{ $t('sign.title') }}
      <span v-if="session.me?.panel" class="quiet">· {{ session.me.panel }}</span>
    </h2>
    <template v-if="session.me?.person?.choose && session.me.panel && !byPassword">
      <p>{{ $t('sign.choosePin', { name: session.me.person.name, n: session.me.lengths.pin }) }}</p>
      <PinPad
        :title="session.me.person.name"
        :busy="busy"
        :act="$t('sign.chosen')"
        @back="session.signOut()"
        @enter="choosePin" />
    </template>
    <form v-else-if="session.me?.person?.choose" @submit.prevent="choose">
      <p>{{ $t('sign.choose', { name: session.me.person.name }) }}</p>
      <FieldText
        :label="$t('people.password')"
        type="password"
        :model-value="own.password"
        :hint="$t('people.passwordRule', { n: session.me?.lengths.password })"
        @typing="own.password = $event" />
      <FieldText
        :label="$t('people.pin')"
        type="password"
        :model-value="own.pin"
        :hint="$t('people.pinRule', { n: session.me?.lengths.pin })"
        @typing="own.pin = $event" />
      <v-btn type="submit" color="primary" size="large" :loading="busy">{{ $t('sign.chosen') }}</v-btn>
    </form>
    <template v-else-if="pad">
      <div v-if="!chosen" class="tiles">
        <button v-for="t in tiles" :key="t.name" class="tile" @click="pickTile(t)">
          {{ t.fullName }}
        </button>
      </div>
      <PinPad
        v-else
        :title="chosen.fullName"
        :busy="busy"
        :act="$t('sign.in')"
        @back="chosen = undefined"
        @enter="go(chosen.name, { pin: $event })" />
    </template>
    <form v-else @submit.prevent="go(name, { password })">
      <FieldText :label="$t('people.login')" :model-value="name" @typing="name = $event" />
      <FieldText
        :label="$t('people.password')"
        type="password"
        :model-value="password"
        @typing="password = $event" />
      <v-btn type="submit" color="primary" size="large" :loading="busy">{{ $t('sign.in') }}</v-btn>
    </form>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <button
      v-if="session.me?.person?.choose ? session.me.panel : tiles.length"
      class="bare other"
      @click="byPassword = !byPassword">
      {{ byPassword ? $t('sign.byPin') : $t('sign.byPassword') }}
    </button>
  </div>
</template>

<style scoped>
.sign {
  display: flex;
  flex-direction: column;
  gap: 14px;
}
form {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.tiles {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.tile {
  min-height: 56px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  font-size: 16px;
  font-weight: 600;
  cursor: pointer;
}
.tile:hover {
  background: var(--c-tint);
}
.other {
  color: var(--c-spruce);
  min-height: 44px;
}
</style>
