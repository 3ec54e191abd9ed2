<script setup lang="ts">
import { computed, ref, shallowRef } from 'vue'
import { api, ask, type Schemas, sentence } from '../api/client'
import { useSession } from '../api/session'
import DialogBox from '../kit/DialogBox.vue'
import FieldText from '../kit/FieldText.vue'
import { dayAndTime, moment } from '../kit/moment'
import SecondFactor from './SecondFactor.vue'

// One's own account: the password, and where one is signed in.
const emit = defineEmits<{ close: [] }>()
const session = useSession()
const sessions = shallowRef<Schemas['OwnSession'][]>([])
const others = computed(() => sessions.value.filter((s) => !s.here))
const secret = ref({ present: '', password: '' })
const form = ref(0) // counts up as the fields are to be empty
const problem = ref('')
const done = ref(false)
const busy = ref(false)

async function load() {
  sessions.value = await ask(api.GET('/api/session/own')).catch((e) => ((problem.value = sentence(e)), []))
}
void load()
async function act(what: () => Promise<unknown>) {
  problem.value = ''
  done.value = false
  busy.value = true
  try {
    await what()
    return true
  } catch (e) {
    problem.value = sentence(e)
    return false
  } finally {
    busy.value = false
    await load()
  }
}
async function change() {
  if (!secret.value.present || !secret.value.password) return
  done.value = await act(() => session.choose(secret.value))
  if (!done.value) return
  secret.value = { present: '', password: '' }
  form.value++
}
const end = (id: string) => act(() => ask(api.DELETE('/api/session/own/{id}', { params: { path: { id } } })))
</script>

<template>
  <DialogBox :label="$t('account.title')" @close="emit('close')">
    <div class="box">
      <h2>{{ session.me?.person?.name }}</h2>
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
      <p v-if="done" role="status">{{ $t('account.changed') }}</p>
      <p v-if="session.me?.person?.directory" class="quiet">{{ $t('directory.kept') }}</p>
      <form v-else :key="form" class="form" @submit.prevent="change">
        <FieldText
          :label="$t('account.present')"
          type="password"
          :model-value="secret.present"
          @typing="secret.present = $event" />
        <FieldText
          :label="$t('account.next')"
          type="password"
          :model-value="secret.password"
          :hint="$t('people.passwordRule', { n: session.me?.lengths.password })"
          @typing="secret.password = $event" />
        <v-btn type="submit" color="primary" :loading="busy" :disabled="!secret.present || !secret.password">
          {{ $t('account.change') }}
        </v-btn>
      </form>
      <SecondFactor v-if="!session.me?.person?.directory" />
      <h3>{{ $t('account.sessions') }}</h3>
      <ul>
        <li v-for="s in sessions" :key="s.id">
          <span>
            <strong>{{ s.place }}</strong>
            <span class="quiet">
              {{
                s.since
                  ? $t('account.since', { at: moment(s.since, dayAndTime) })
                  : $t('account.sinceUnknown')
              }}
            </span>
            <span v-if="s.here" class="chip on">{{ $t('account.here') }}</span>
            <span v-else-if="s.open" class="chip">{{ $t('account.open') }}</span>
          </span>
          <v-btn v-if="!s.here" variant="outlined" :disabled="busy" @click="end(s.id)">
            {{ $t('account.end') }}
          </v-btn>
        </li>
      </ul>
      <div class="do">
        <v-btn v-if="others.length > 1" variant="text" :disabled="busy" @click="end('others')">
          {{ $t('account.others') }}
        </v-btn>
        <span v-else-if="!others.length" class="quiet">{{ $t('account.none') }}</span>
        <v-btn variant="text" @click="emit('close')">{{ $t('notice.close') }}</v-btn>
      </div>
    </div>
  </DialogBox>
</template>

<style scoped>
/* As tall as the window at most: the codes' picture does not push the end out of it. */
.box {
  max-height: 100dvh;
  overflow: auto;
  width: min(440px, 100vw);
  box-sizing: border-box;
  padding: 20px 24px;
}
h2 {
  margin: 0 0 12px;
}
h3 {
  margin: 22px 0 6px;
  font-size: 14px;
}
.form {
  display: grid;
  gap: 10px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 240px;
  overflow: auto;
}
li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
  min-height: 44px;
  border-bottom: 1px solid var(--c-line);
}
li .quiet,
li .chip {
  margin-left: 8px;
}
.do {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  align-items: center;
  margin-top: 12px;
}
</style>
