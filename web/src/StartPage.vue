<script setup lang="ts">
import { computed, onMounted, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, sentence } from './api/client'
import { asFile } from './api/upload'
import { useSession } from './api/session'
import BackupBox from './backup/BackupBox.vue'
import FieldText from './kit/FieldText.vue'
import { cameBackTo } from './desk/useVisit'
import SignInForm from './desk/SignInForm.vue'

// Where everybody starts: the first account, signing in, choosing a project.
const session = useSession()
const route = useRoute()
const router = useRouter()
const problem = ref('')
const owner = ref({ name: '', fullName: '', password: '' })
const newName = ref('')
const me = computed(() => session.me)

onMounted(async () => {
  try {
    await session.load()
    await visited()
  } catch (e) {
    problem.value = sentence(e)
  }
})
/** Goes on where somebody left for the company's directory, or says why that came to nothing. */
async function visited() {
  const next = cameBackTo()
  const ticket = route.query.visit
  if (typeof ticket === 'string') {
    const told = await ask(api.GET('/api/directory/outcome', { params: { query: { ticket } } }))
    problem.value = told.refused ?? ''
    await router.replace({ query: {} })
  } else if (next && me.value?.person && !me.value.person.nobody) {
    if (next === '/') await signedIn()
    else await router.replace(next)
  }
}

async function createOwner() {
  problem.value = ''
  try {
    session.me = await ask(api.POST('/api/owner', { body: owner.value }))
  } catch (e) {
    problem.value = sentence(e)
  }
}
async function signedIn() {
  const next = route.query.next
  if (typeof next === 'string' && next.startsWith('/') && !next.startsWith('//'))
    return void router.push(next)
  const only = me.value?.projects.length === 1 ? me.value.projects[0]! : undefined
  if (only)
    void router.push(
      only.rights.includes('engineer')
        ? { name: 'tags', params: { project: only.id } }
        : { name: 'desk', params: { project: only.id } },
    )
}
async function create() {
  try {
    await entered(await ask(api.POST('/api/projects', { body: { name: newName.value } })))
  } catch (e) {
    problem.value = sentence(e)
  }
}
const entered = async (p: { id: string }) => {
  await session.load()
  await router.push({ name: 'site', params: { project: p.id } })
}
/** Makes a project of an archive. */
const archive = ref<HTMLInputElement>()
const bringing = ref(false)
async function bring(e: Event) {
  const input = e.target as HTMLInputElement
  const chosen = input.files?.[0]
  input.value = ''
  if (!chosen) return
  bringing.value = true
  problem.value = ''
  try {
    const query = { name: newName.value || undefined }
    await entered(await ask(api.POST('/api/archives', { params: { query }, ...asFile(chosen) })))
  } catch (err) {
    problem.value = sentence(err)
  } finally {
    bringing.value = false
  }
}
</script>

<template>
  <div class="page">
    <div class="brand">
      <svg viewBox="0 0 36 36" width="64" height="64" aria-hidden="true">
        <path d="M11 3v30M25 3v30" stroke="#E7E3DA" stroke-width="2.4" />
        <path d="M4 9h28M4 18h28M4 27h28" stroke="#58B39B" stroke-width="3" />
      </svg>
      <h1>Ready Rail</h1>
      <p>{{ $t('start.line') }}</p>
    </div>
    <div class="card">
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
      <form v-if="me?.needsOwner" @submit.prevent="createOwner">
        <h2>{{ $t('start.owner') }}</h2>
        <p class="quiet">{{ $t('start.ownerWhy') }}</p>
        <FieldText
          :label="$t('people.fullName')"
          :model-value="owner.fullName"
          @typing="owner.fullName = $event" />
        <FieldText :label="$t('people.login')" :model-value="owner.name" @typing="owner.name = $event" />
        <FieldText
          :label="$t('people.password')"
          type="password"
          :model-value="owner.password"
          :hint="$t('people.passwordRule', { n: session.me?.lengths.password })"
          @typing="owner.password = $event" />
        <v-btn type="submit" color="primary">{{ $t('start.create') }}</v-btn>
      </form>
      <template v-else-if="me && (!me.person || me.person.choose || me.person.nobody)">
        <SignInForm :done="signedIn" />
        <p v-if="me.person?.nobody && me.projects[0]">
          <v-btn variant="outlined" :to="{ name: 'desk', params: { project: me.projects[0].id } }">
            {{ $t('start.look') }}
          </v-btn>
        </p>
        <div v-if="me.demo.length && (!me.person || me.person.nobody)" class="demo">
          <h2>{{ $t('start.demo') }}</h2>
          <table class="grid">
            <tbody>
              <tr v-for="d in me.demo" :key="d.name">
                <td>{{ d.fullName }}</td>
                <td class="quiet">{{ d.role }}</td>
                <td class="mono">{{ d.name }}</td>
                <td class="mono">{{ d.password }}</td>
                <td class="mono">{{ d.pin }}</td>
              </tr>
            </tbody>
          </table>
        </div>
      </template>
      <template v-else-if="me?.person">
        <h2>{{ $t('start.projects') }}</h2>
        <div v-for="b in me.broken" :key="b.id" class="problem" role="alert">
          <strong>{{ $t('start.broken', { id: b.id }) }}</strong>
          <p>{{ b.reason }}</p>
          <p class="quiet">{{ $t('start.brokenMend') }}</p>
        </div>
        <div v-for="p in me.projects" :key="p.id" class="project">
          <strong>{{ p.name }}</strong>
          <span class="grow" />
          <v-btn
            v-if="['engineer', 'commission'].some((r) => p.rights.includes(r))"
            color="primary"
            :to="{ name: 'tags', params: { project: p.id } }">
            {{ $t('start.workshop') }}
          </v-btn>
          <v-btn
            v-if="p.rights.includes('view')"
            variant="outlined"
            :to="{ name: 'desk', params: { project: p.id } }">
            {{ $t('start.desk') }}
          </v-btn>
        </div>
        <p v-if="!me.projects.length" class="quiet">{{ $t('start.none') }}</p>
        <form v-if="me.person.server" class="new" @submit.prevent="create">
          <FieldText :label="$t('start.newProject')" :model-value="newName" @typing="newName = $event" />
          <v-btn type="submit" variant="outlined" :disabled="!newName">{{ $t('start.make') }}</v-btn>
          <v-btn
            variant="outlined"
            :loading="bringing"
            :title="$t('start.bringHint')"
            @click="archive?.click()">
            {{ $t('start.bring') }}
          </v-btn>
          <input
            ref="archive"
            type="file"
            accept=".zip"
            hidden
            :aria-label="$t('start.bring')"
            @change="bring" />
        </form>
        <BackupBox v-if="me.person.server" />
        <p>
          <button class="bare out" @click="session.signOut()">
            {{ $t('rail.signOut') }}, {{ me.person.name }}
          </button>
        </p>
      </template>
    </div>
  </div>
</template>

<style scoped>
.page {
  height: 100vh;
  display: grid;
  grid-template-columns: 340px 1fr;
  background: var(--c-paper);
}
.brand {
  background: #22303a;
  color: #e7e3da;
  padding: 72px 40px;
}
.brand h1 {
  font-size: 30px;
  margin: 20px 0 8px;
}
.brand p {
  color: #9fb0b8;
  font-size: 16px;
}
.card {
  align-self: center;
  justify-self: center;
  width: 620px;
  max-width: 92%;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
  border-radius: 6px;
  padding: 28px 32px;
  max-height: 94vh;
  overflow: auto;
}
form {
  display: flex;
  flex-direction: column;
  gap: 12px;
  align-items: stretch;
}
.demo {
  margin-top: 28px;
}
.project {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 12px 0;
  border-bottom: 1px solid var(--c-line);
  font-size: 16px;
}
.grow {
  flex: 1;
}
.new {
  flex-direction: row;
  align-items: flex-end;
  margin-top: 20px;
}
.new > :first-child {
  flex: 1;
}
.out {
  color: var(--c-spruce);
  margin-top: 16px;
}
</style>
