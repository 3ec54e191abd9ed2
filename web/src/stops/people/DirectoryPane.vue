<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import { dayAndTime, moment } from '../../kit/moment'
import { useNotice } from '../../kit/problem'
import { useProject } from '../../rail/project'
import DirectoryMembers from './DirectoryMembers.vue'
import DirectoryTry from './DirectoryTry.vue'

// The company's directory: how it is asked, and which roles its groups have here.
defineProps<{ roles: Schemas['Role'][]; areas: { id: string; name: string }[] }>()
type Settings = Schemas['Directory']
const project = useProject()
const notice = useNotice()
const { t } = useI18n()
const shown = shallowRef<Schemas['DirectoryShown']>()
const form = ref<Settings>()
const entries = shallowRef<Schemas['VaultEntry'][]>([])
const busy = ref(false)
const changed = computed(() => JSON.stringify(form.value) !== JSON.stringify(shown.value?.settings))

function take(told: Schemas['DirectoryShown']) {
  shown.value = told
  form.value = structuredClone(told.settings)
}
async function act(work: () => Promise<unknown>) {
  busy.value = true
  try {
    await work()
  } catch (e) {
    notice.refuse(e)
  } finally {
    busy.value = false
  }
}
const load = () => act(async () => take(await ask(api.GET('/api/directory'))))
onMounted(async () => {
  await load()
  entries.value = await ask(api.GET('/api/vault')).catch(() => [])
})
const save = () =>
  act(async () => {
    take(await ask(api.PUT('/api/directory', { body: form.value! })))
    notice.say(t('directory.saved'))
  })
const askNow = () =>
  act(async () => {
    await ask(api.POST('/api/directory/ask'))
    take(await ask(api.GET('/api/directory')))
  })

const kinds = computed(() =>
  (['', 'ldap', 'openid'] as const).map((value) => ({ value, title: t(`directory.${value || 'none'}`) })),
)
const credentials = computed(() => [
  { value: '', title: t('directory.choose') },
  ...entries.value.filter((e) => e.kind === 'password').map((e) => ({ value: e.name, title: e.name })),
])
const ldap = computed(() => form.value?.kind === 'ldap')
const usual = computed(() =>
  ldap.value ? ['uid', 'cn', 'memberOf'] : ['preferred_username', 'name', 'groups'],
)
const back = `${location.origin}/api/directory/back`
function setKind(kind: string) {
  const f = form.value!
  f.kind = kind as Settings['kind']
  f.name = f.fullName = f.groups = ''
}
</script>

<template>
  <div v-if="form && shown" class="directory">
    <p class="quiet line">{{ $t('directory.line') }}</p>
    <p v-if="shown.state.down" class="problem" role="alert">
      {{ $t('directory.downWhy', { at: moment(shown.state.down, dayAndTime), why: shown.why }) }}
    </p>
    <p v-else-if="shown.settings.kind" class="quiet">
      {{
        $t('directory.state', {
          people: shown.people,
          gone: shown.gone,
          at: shown.asked ? moment(shown.asked, dayAndTime) : '—',
        })
      }}
    </p>
    <form class="form" @submit.prevent="save">
      <div class="fields">
        <FieldSelect
          :label="$t('directory.kind')"
          :model-value="form.kind"
          :options="kinds"
          @update:model-value="setKind" />
        <template v-if="form.kind">
          <FieldText
            :label="$t('directory.title')"
            :model-value="form.title"
            :hint="$t('directory.titleHint')"
            @typing="form.title = $event" />
          <FieldText
            :label="$t('directory.address')"
            mono
            :model-value="form.address"
            :hint="$t(ldap ? 'directory.addressLdap' : 'directory.addressOpenid')"
            @typing="form.address = $event" />
          <FieldSelect
            v-model="form.credential"
            :label="$t('directory.credential')"
            :options="credentials"
            :hint="$t(ldap ? 'directory.credentialLdap' : 'directory.credentialOpenid')" />
          <FieldText
            v-if="ldap"
            :label="$t('directory.base')"
            mono
            :model-value="form.base"
            placeholder="ou=people,dc=yard,dc=example"
            @typing="form.base = $event" />
          <FieldText
            :label="$t('directory.authority')"
            lines
            :model-value="form.authority"
            :hint="$t('directory.authorityHint')"
            @typing="form.authority = $event" />
        </template>
      </div>
      <template v-if="form.kind">
        <h3>{{ $t(ldap ? 'directory.attributes' : 'directory.claims') }}</h3>
        <div class="fields three">
          <FieldText
            v-for="(at, i) in ['name', 'fullName', 'groups'] as const"
            :key="at"
            :label="$t(`directory.${at}`)"
            mono
            :model-value="form[at]"
            :hint="$t('directory.usual', { name: usual[i] })"
            @typing="form[at] = $event" />
        </div>
        <FieldCheck v-model="form.pinSigns" :label="$t('directory.pinSigns')" />
        <p v-if="!ldap" class="quiet mono">{{ $t('directory.back', { address: back }) }}</p>
        <DirectoryMembers v-model="form.members" :project="project.id" :roles="roles" :areas="areas" />
      </template>
      <div class="row">
        <v-btn type="submit" color="primary" :loading="busy" :disabled="!changed">
          {{ $t('directory.save') }}
        </v-btn>
        <v-btn v-if="shown.settings.kind && !changed" variant="outlined" :disabled="busy" @click="askNow">
          {{ $t('directory.ask') }}
        </v-btn>
        <v-btn v-if="changed" variant="text" @click="take(shown)">{{ $t('common.cancel') }}</v-btn>
        <span v-if="changed" class="quiet">{{ $t('directory.unsaved') }}</span>
      </div>
    </form>
    <DirectoryTry v-if="form.kind" :settings="form" />
  </div>
</template>

<style scoped>
.directory {
  max-width: 1000px;
}
.line {
  max-width: 70ch;
}
.form {
  display: grid;
  gap: 12px;
}
.form h3 {
  margin: 8px 0 0;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(280px, 1fr));
  gap: 12px 18px;
}
.row {
  display: flex;
  align-items: center;
  gap: 10px;
}
</style>
