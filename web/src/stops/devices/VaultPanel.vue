<script setup lang="ts">
import { mdiKeyPlus, mdiTrashCanOutline } from '@mdi/js'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas } from '../../api/client'
import { useSession } from '../../api/session'
import FieldSelect from '../../kit/FieldSelect.vue'
import { dayAndTime, moment } from '../../kit/moment'
import { useNotice } from '../../kit/problem'
import { useProject } from '../../rail/project'

// The server's vault: credentials by name, who may use them, and where they are
// used. A secret goes in and never comes out again.
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const session = useSession()
const notice = useNotice()
const { t } = useI18n()
const entries = shallowRef<Schemas['VaultEntry'][]>([])
const roles = shallowRef<Schemas['Role'][]>([])
const owner = computed(() => session.me?.person?.server)
const hosts = ref('')
type Form = Schemas['NewVaultEntry']
const form = ref<Form>()
const passphrase = ref('')
const file = ref<File>()

async function load() {
  entries.value = await ask(api.GET('/api/vault')).catch(() => [])
}
onMounted(async () => {
  await load()
  roles.value = await ask(api.GET('/api/projects/{project}/roles', { params: { path: project.path } })).catch(
    () => [],
  )
})
async function act(work: () => Promise<unknown>, done?: string) {
  try {
    await work()
    if (done) notice.say(done)
    await load()
    return true
  } catch (e) {
    notice.refuse(e)
    return false
  }
}
function begin(e?: Schemas['VaultEntry']) {
  hosts.value = (e?.hosts ?? []).join(', ')
  form.value = {
    name: e?.name ?? '',
    kind: (e?.kind as Form['kind']) ?? 'password',
    user: e?.user,
    note: e?.note,
    roles: e?.roles ?? ['Engineer'],
  }
}
async function put() {
  form.value!.hosts = hosts.value.split(/[\s,;]+/).filter(Boolean)
  if (
    await act(
      () => ask(api.PUT('/api/vault', { body: form.value! })),
      t('vault.put', { name: form.value!.name }),
    )
  )
    form.value = undefined
}
const drop = (name: string) => act(() => ask(api.DELETE('/api/vault/{name}', { params: { path: { name } } })))
async function save() {
  await act(async () => {
    const r = await fetch('/api/vault/export', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ passphrase: passphrase.value }),
    })
    if (!r.ok) throw new Error((await r.json()).detail)
    const a = document.createElement('a')
    a.href = URL.createObjectURL(await r.blob())
    a.download = 'vault.age'
    a.click()
    URL.revokeObjectURL(a.href)
  }, t('vault.exported'))
}
async function bring() {
  const f = file.value
  if (!f) return
  const bytes = new Uint8Array(await f.arrayBuffer())
  let text = ''
  for (const b of bytes) text += String.fromCharCode(b)
  await act(
    () => ask(api.POST('/api/vault/import', { body: { passphrase: passphrase.value, file: btoa(text) } })),
    t('vault.imported'),
  )
}
const pick = (e: Event) => (file.value = (e.target as HTMLInputElement).files?.[0])
</script>

<template>
  <div class="panel">
    <div class="top">
      <h2>{{ $t('vault.title') }}</h2>
      <span class="quiet">{{ $t('vault.why') }}</span>
      <span class="grow" />
      <v-btn v-if="owner" variant="outlined" :prepend-icon="mdiKeyPlus" @click="begin()">
        {{ $t('vault.add') }}
      </v-btn>
      <v-btn variant="text" @click="emit('close')">{{ $t('notice.close') }}</v-btn>
    </div>
    <form v-if="form" class="form" @submit.prevent="put">
      <label>
        {{ $t('common.name') }}
        <input v-model="form.name" class="plain" />
      </label>
      <FieldSelect
        :label="$t('vault.holds')"
        :model-value="form.kind"
        :options="
          (['password', 'certificate'] as const).map((v) => ({ value: v, title: $t($word('vault.kind', v)) }))
        "
        @update:model-value="form.kind = $event as Form['kind']" />
      <template v-if="form.kind === 'password'">
        <label>
          {{ $t('vault.user') }}
          <input v-model="form.user" class="plain" autocomplete="off" />
        </label>
        <label>
          {{ $t('people.password') }}
          <input
            v-model="form.password"
            class="plain"
            type="password"
            autocomplete="new-password"
            :placeholder="$t('people.keep')" />
        </label>
      </template>
      <template v-else>
        <label>
          {{ $t('vault.certificate') }}
          <textarea v-model="form.certificate" class="plain mono" rows="3" />
        </label>
        <label>
          {{ $t('vault.key') }}
          <textarea v-model="form.key" class="plain mono" rows="3" />
        </label>
      </template>
      <label>
        {{ $t('vault.hosts') }}
        <input v-model="hosts" class="plain mono" :placeholder="$t('vault.hostsHint')" />
      </label>
      <label>
        {{ $t('vault.note') }}
        <input v-model="form.note" class="plain" />
      </label>
      <div class="roles">
        <span class="quiet">{{ $t('vault.roles') }}</span>
        <label v-for="r in roles" :key="r.id">
          <input v-model="form.roles" type="checkbox" :value="r.name" />
          {{ r.name }}
        </label>
      </div>
      <div class="acts">
        <v-btn color="primary" type="submit" :disabled="!form.name.trim()">{{ $t('vault.keep') }}</v-btn>
        <v-btn variant="text" @click="form = undefined">{{ $t('common.cancel') }}</v-btn>
      </div>
    </form>
    <p v-if="!entries.length" class="quiet">{{ $t('vault.empty') }}</p>
    <table v-else class="grid">
      <thead>
        <tr>
          <th>{{ $t('common.name') }}</th>
          <th>{{ $t('vault.holds') }}</th>
          <th>{{ $t('vault.user') }}</th>
          <th>{{ $t('vault.roles') }}</th>
          <th>{{ $t('vault.hosts') }}</th>
          <th>{{ $t('vault.uses') }}</th>
          <th>{{ $t('vault.by') }}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="e in entries" :key="e.name">
          <td>
            <button class="bare strong" :disabled="!owner" @click="begin(e)">{{ e.name }}</button>
          </td>
          <td>{{ $t($word('vault.kind', e.kind)) }}</td>
          <td class="mono">{{ e.user }}</td>
          <td>{{ e.roles.join(', ') }}</td>
          <td class="mono">{{ e.hosts.join(', ') }}</td>
          <td>
            <router-link
              v-for="u in e.uses"
              :key="u.id"
              :to="{ name: 'devices', params: { project: project.id, id: u.id } }">
              {{ u.device }}
            </router-link>
          </td>
          <td class="quiet">{{ e.person }}, {{ moment(e.at, dayAndTime) }}</td>
          <td>
            <button v-if="owner" class="bare" :aria-label="$t('common.delete')" @click="drop(e.name)">
              <v-icon :icon="mdiTrashCanOutline" size="16" />
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <div v-if="owner" class="out">
      <strong>{{ $t('vault.carry') }}</strong>
      <input
        v-model="passphrase"
        class="plain"
        type="password"
        :placeholder="$t('vault.passphrase')"
        :aria-label="$t('vault.passphrase')"
        autocomplete="new-password" />
      <v-btn variant="outlined" size="small" :disabled="passphrase.length < 10" @click="save">
        {{ $t('vault.export') }}
      </v-btn>
      <input type="file" accept=".age" :aria-label="$t('vault.file')" @change="pick" />
      <v-btn variant="outlined" size="small" :disabled="!file || !passphrase" @click="bring">
        {{ $t('vault.import') }}
      </v-btn>
    </div>
  </div>
</template>

<style scoped>
.panel {
  display: flex;
  flex-direction: column;
  gap: 12px;
  padding: 12px 16px;
}
.top {
  display: flex;
  align-items: center;
  gap: 12px;
}
.grow {
  flex: 1;
}
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px 14px;
  max-width: 760px;
  border: 1px solid var(--c-line);
  border-radius: 4px;
  padding: 12px;
}
.form label {
  font-size: 12px;
  color: var(--c-quiet);
}
.roles {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
}
.roles label {
  font-size: 14px;
  color: var(--c-ink);
}
.acts {
  grid-column: 1 / -1;
}
.strong {
  font-weight: 650;
  color: var(--c-spruce);
}
.out {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
  border-top: 1px solid var(--c-line);
  padding-top: 12px;
}
.out .plain {
  width: 220px;
}
</style>
