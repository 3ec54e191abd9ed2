<script setup lang="ts">
import { computed, nextTick, onMounted, ref } from 'vue'
import { sentence } from '../api/client'
import { useSession } from '../api/session'
import FieldText from '../kit/FieldText.vue'
import { useArrows } from '../kit/useArrows'
import DirectorySignIn from './DirectorySignIn.vue'
import PinPad from './PinPad.vue'
import { useBadge } from './useBadge'

// At a panel: a name tile and a PIN. Elsewhere, or by choice: name and password.
// What follows is called, not emitted: signing in may take this form away first.
const props = defineProps<{ done: () => void; who?: string; screen?: string }>()
const session = useSession()
const byPassword = ref(false)
const name = ref('')
const password = ref('')
/** The one-time code, once it is asked for. */
const code = ref<string>()
/** It is for the screen alone that asked for it. */
const visits = ref(false)
const chosen = ref<{ name: string; fullName: string }>()
/** The badge that was read, whose PIN is asked for. */
const badge = ref<string>()
const problem = ref('')
const busy = ref(false)
const form = ref<HTMLElement>()
useArrows(form)
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
const pad = computed(() => (tiles.value.length > 0 || !!session.me?.badges) && !byPassword.value)
useBadge(
  () => !!session.me?.badges && pad.value && !chosen.value && !busy.value,
  (number) => void go({ badge: number }),
)

async function go(secret: Parameters<typeof session.signIn>[0]) {
  problem.value = ''
  if (!secret.badge && (!secret.name || !(secret.pin || secret.password))) return
  busy.value = true
  try {
    const told = await session.signIn({ ...secret, visit: visits.value ? props.screen : undefined })
    if (told.asksCode) code.value = ''
    else if (told.asksPin) {
      chosen.value = told.asksPin
      badge.value = secret.badge
    } else if (!session.me?.person?.choose) props.done()
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
/** The first tile has the focus, so that arrows have where to begin. */
const focusTile = () => form.value?.querySelector<HTMLElement>('.tile')?.focus()
onMounted(focusTile)
function pickTile(tile: typeof chosen.value) {
  chosen.value = tile
  if (!tile) void nextTick(focusTile)
  badge.value = undefined
  problem.value = ''
}
</script>

<template>
  <div ref="form" class="sign">
    <h2>
      {{ $t('sign.title') }}
      <span v-if="session.me?.panel" class="quiet">· {{ session.me.panel }}</span>
    </h2>
    <p v-if="session.me?.notice && !session.me.person?.choose" class="notice">{{ session.me.notice }}</p>
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
      <p v-if="!chosen && session.me?.badges" class="quiet">{{ $t('badge.hold') }}</p>
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
        @back="pickTile(undefined)"
        @enter="go(badge ? { badge, pin: $event } : { name: chosen.name, pin: $event })" />
    </template>
    <form v-else-if="code !== undefined" @submit.prevent="code && go({ name, password, code })">
      <p>{{ $t('second.asked', { name }) }}</p>
      <label class="code">
        {{ $t('second.code') }}
        <input
          v-model="code"
          class="plain mono"
          inputmode="numeric"
          autocomplete="one-time-code"
          maxlength="10"
          autofocus />
      </label>
      <v-btn type="submit" color="primary" size="large" :loading="busy">{{ $t('sign.in') }}</v-btn>
      <button type="button" class="bare other" @click="code = undefined">{{ $t('common.cancel') }}</button>
    </form>
    <form v-else @submit.prevent="go({ name, password })">
      <FieldText :label="$t('people.login')" :model-value="name" @typing="name = $event" />
      <FieldText
        :label="$t('people.password')"
        type="password"
        :model-value="password"
        @typing="password = $event" />
      <v-btn type="submit" color="primary" size="large" :loading="busy">{{ $t('sign.in') }}</v-btn>
    </form>
    <DirectorySignIn v-if="!session.me?.person?.choose && code === undefined && !chosen" />
    <label v-if="screen && session.me?.person && !session.me.person.choose" class="visits">
      <input v-model="visits" type="checkbox" />
      {{ $t('sign.visit', { name: session.me.person.nobody ? $t('desk.nobody') : session.me.person.name }) }}
    </label>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <button
      v-if="session.me?.person?.choose ? session.me.panel : tiles.length || session.me?.badges"
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
.notice {
  margin: 0;
  padding: 8px 12px;
  border-left: 3px solid var(--c-spruce);
  background: var(--c-tint);
  white-space: pre-line;
  overflow-wrap: anywhere;
  max-height: 30vh;
  overflow: auto;
}
form {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.visits {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 44px;
}
.code {
  display: grid;
  gap: 4px;
}
.code input {
  min-height: 48px;
  font-size: 22px;
  letter-spacing: 0.2em;
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
