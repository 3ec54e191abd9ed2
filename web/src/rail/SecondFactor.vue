<script setup lang="ts">
import { computed, nextTick, ref, shallowRef } from 'vue'
import { api, ask, type Schemas, sentence } from '../api/client'
import { useSession } from '../api/session'
import FieldText from '../kit/FieldText.vue'

// One-time codes of one's own account: set up with an app, proved by a code, and ended
// with the password.
const session = useSession()
const on = computed(() => !!session.me?.person?.second)
const step = ref<'closed' | 'password' | 'code'>('closed')
const present = ref('')
const code = ref('')
const offer = shallowRef<Schemas['SecondOffer']>()
const problem = ref('')
const busy = ref(false)
const field = ref<HTMLInputElement>()

async function act(what: () => Promise<void>) {
  if (busy.value) return
  busy.value = true
  problem.value = ''
  try {
    await what()
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
const withPassword = () =>
  act(async () => {
    const body = { present: present.value }
    if (on.value) {
      session.become(await ask(api.POST('/api/session/second/end', { body })))
      return close()
    }
    offer.value = await ask(api.POST('/api/session/second', { body }))
    step.value = 'code'
    await nextTick()
    field.value?.focus()
  })
const prove = () =>
  act(async () => {
    session.become(await ask(api.PUT('/api/session/second', { body: { code: code.value } })))
    close()
  })
function close() {
  step.value = 'closed'
  offer.value = undefined
  present.value = code.value = problem.value = ''
}
</script>

<template>
  <section class="second">
    <h3>{{ $t('second.title') }}</h3>
    <p class="quiet">{{ on ? $t('second.on') : $t('second.off') }}</p>
    <v-btn v-if="step === 'closed'" variant="outlined" @click="step = 'password'">
      {{ on ? $t('second.end') : $t('second.begin') }}
    </v-btn>
    <form v-else-if="step === 'password'" class="form" @submit.prevent="present && withPassword()">
      <FieldText
        :label="$t('second.password')"
        type="password"
        :model-value="present"
        @typing="present = $event" />
      <div class="do">
        <v-btn variant="text" @click="close">{{ $t('common.cancel') }}</v-btn>
        <v-btn type="submit" color="primary" :loading="busy" :disabled="!present">
          {{ $t('second.next') }}
        </v-btn>
      </div>
    </form>
    <form v-else-if="offer" class="form" @submit.prevent="code && prove()">
      <p>{{ $t('second.read') }}</p>
      <img :src="offer.picture" :alt="$t('second.picture')" width="220" height="220" />
      <p class="quiet">
        {{ $t('second.orType') }}
        <span class="mono secret">{{ offer.secret.match(/.{1,4}/g)?.join(' ') }}</span>
      </p>
      <label>
        {{ $t('second.code') }}
        <input
          ref="field"
          v-model="code"
          class="plain mono"
          inputmode="numeric"
          autocomplete="one-time-code"
          maxlength="10" />
      </label>
      <div class="do">
        <v-btn variant="text" @click="close">{{ $t('common.cancel') }}</v-btn>
        <v-btn type="submit" color="primary" :loading="busy" :disabled="!code">
          {{ $t('second.prove') }}
        </v-btn>
      </div>
    </form>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
  </section>
</template>

<style scoped>
h3 {
  margin: 22px 0 6px;
  font-size: 14px;
}
p {
  margin: 0 0 8px;
}
.form {
  display: grid;
  gap: 10px;
}
img {
  background: #fff;
  border-radius: 4px;
}
.secret {
  overflow-wrap: anywhere;
  user-select: all;
}
label {
  display: grid;
  gap: 4px;
}
.do {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
