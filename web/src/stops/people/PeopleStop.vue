<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { useSession } from '../../api/session'
import StopTabs from '../../kit/StopTabs.vue'
import { useNotice } from '../../kit/problem'
import { freshId, useProject } from '../../rail/project'
import { clock, moment } from '../../kit/moment'
import { useRoles } from '../../rail/useRoles'
import CertificateBox from './CertificateBox.vue'
import DirectoryPane from './DirectoryPane.vue'
import FailedSignIns from './FailedSignIns.vue'
import PanelList from './PanelList.vue'
import PersonForm from './PersonForm.vue'
import RoleTable from './RoleTable.vue'
import RuleInspector from './RuleInspector.vue'
import RuleTable from './RuleTable.vue'
import ScreenRights from './ScreenRights.vue'
import { useRules } from './useRules'

const project = useProject()
const session = useSession()
const notice = useNotice()
const { t } = useI18n()
const people = shallowRef<Schemas['PersonRow'][]>([])
const roles = useRoles()
const rights = shallowRef<Schemas['Info'][]>([])
const selected = ref<string>()
const problem = ref('')
const person = computed(() => people.value.find((p) => p.id === selected.value))
const areas = computed(() => [{ id: '', name: t('site.plant') }, ...(project.overview?.site.areas ?? [])])

async function load() {
  try {
    people.value = await ask(api.GET('/api/projects/{project}/people', { params: { path: project.path } }))
    rights.value = (await ask(api.GET('/api/catalogue'))).rights
  } catch (e) {
    problem.value = sentence(e)
  }
}
watch(() => project.versionOf('role', 'site'), load, { immediate: true })

async function setGrants(p: Schemas['PersonRow'], grants: Schemas['Grant'][]) {
  try {
    await ask(
      api.PUT('/api/projects/{project}/people/{id}/grants', {
        params: { path: { ...project.path, id: p.id } },
        body: grants,
      }),
    )
  } catch (e) {
    notice.refuse(e)
  }
  await load()
  await project.refresh()
}
async function unlock(p: Schemas['PersonRow']) {
  try {
    await ask(
      api.DELETE('/api/projects/{project}/people/{id}/lock', {
        params: { path: { ...project.path, id: p.id } },
      }),
    )
  } catch (e) {
    notice.refuse(e)
  }
  await load()
}
const route = useRoute()
const router = useRouter()
const openRule = computed(() => String(route.params.id ?? '') || undefined)
const rule = computed(() => rules.rules.value.find((r) => r.id === openRule.value))
const tab = ref<'people' | 'screens' | 'rules' | 'directory'>(openRule.value ? 'rules' : 'people')
const rules = useRules(() => tab.value === 'rules')
const tabs = computed(() => [
  { key: 'people' as const, title: t('rules.tabPeople') },
  { key: 'screens' as const, title: t('screenRights.title') },
  { key: 'rules' as const, title: t('rules.tabRules') },
  ...(session.me?.person?.server ? [{ key: 'directory' as const, title: t('directory.tab') }] : []),
])
watch(openRule, (id) => id && (tab.value = 'rules'))
const go = (id?: string) => router.push({ name: 'people', params: { project: project.id, id } })
async function addRule() {
  const id = freshId('rule')
  const refused = await project.edit(t('rules.added'), [
    { kind: 'rule', id, path: '', value: { name: t('rules.fresh'), reason: 'required' } },
  ])
  if (!refused) await go(id)
}
async function removeRule() {
  const r = rule.value!
  await project.edit(t('rules.removed', { name: r.name }), [{ kind: 'rule', id: r.id, path: '' }])
  await go()
}
function saved() {
  selected.value = undefined
  void load()
}
</script>

<template>
  <div class="split">
    <section class="stop">
      <div class="stop-head">
        <h1>{{ $t('stop.people') }}</h1>
        <span class="quiet">
          {{
            tab === 'rules'
              ? $t('rules.line', { n: rules.rules.value.length })
              : tab === 'people'
                ? $t('people.line', { n: people.length })
                : ''
          }}
        </span>
        <span class="grow" />
        <v-btn v-if="tab === 'people'" color="primary" :prepend-icon="mdiPlus" @click="selected = 'new'">
          {{ $t('people.add') }}
        </v-btn>
        <v-btn v-else-if="tab === 'rules'" color="primary" :prepend-icon="mdiPlus" @click="addRule">
          {{ $t('rules.add') }}
        </v-btn>
      </div>
      <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
      <StopTabs v-model="tab" :tabs="tabs" />
      <div v-if="tab === 'rules'" class="body">
        <RuleTable :known="rules" :open="openRule" @open="go" />
      </div>
      <div v-else-if="tab === 'screens'" class="body">
        <ScreenRights :roles="roles" :areas="areas" />
      </div>
      <div v-else-if="tab === 'directory'" class="body">
        <DirectoryPane :roles="roles" :areas="areas" />
      </div>
      <div v-else class="body">
        <table class="grid">
          <thead>
            <tr>
              <th>{{ $t('people.fullName') }}</th>
              <th>{{ $t('people.login') }}</th>
              <th>{{ $t('people.signsIn') }}</th>
              <th>{{ $t('people.roles') }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="p in people" :key="p.id" :class="{ on: p.id === selected }">
              <td>
                <button class="bare" @click="selected = p.id">
                  <strong>{{ p.fullName }}</strong>
                </button>
                <span v-if="p.owner" class="chip own">{{ $t('people.owner') }}</span>
                <span v-if="p.server && !p.owner" class="chip own">{{ $t('people.serverChip') }}</span>
                <span v-if="p.disabled" class="chip own">{{ $t('people.disabled') }}</span>
                <span v-if="p.gone" class="chip own">{{ $t('directory.gone') }}</span>
                <span v-if="p.until" class="chip own">
                  {{ $t(p.over ? 'people.over' : 'people.untilChip', { day: p.until }) }}
                </span>
                <span v-if="p.renew" class="chip own">{{ $t('people.renewChip') }}</span>
                <span v-if="p.lockedAt?.length" class="chip own">
                  {{
                    $t('people.locked', { at: p.lockedAt.join(', '), until: moment(p.lockedUntil!, clock) })
                  }}
                  <button class="bare open" @click="unlock(p)">{{ $t('people.unlock') }}</button>
                </span>
              </td>
              <td class="mono">{{ p.name }}</td>
              <td class="quiet">
                {{
                  [
                    p.directory && $t('directory.chip'),
                    p.hasPassword && $t('people.password'),
                    p.second && $t('second.short'),
                    p.hasPin && $t('people.pin'),
                    p.hasBadge && $t('badge.title'),
                  ]
                    .filter(Boolean)
                    .join(', ') || '—'
                }}
                <template v-if="p.setBy">· {{ $t('people.setBy', { name: p.setBy }) }}</template>
              </td>
              <td class="grants">
                <span v-for="(g, i) in p.grants" :key="g.role + g.area" class="chip">
                  {{ roles.find((r) => r.id === g.role)?.name }} ·
                  {{ areas.find((a) => a.id === g.area)?.name }}
                  <span v-if="g.directory" class="quiet">{{ $t('directory.by') }}</span>
                  <button
                    v-else
                    class="bare"
                    :aria-label="$t('common.delete')"
                    @click="
                      setGrants(
                        p,
                        p.grants.filter((_, j) => j !== i),
                      )
                    ">
                    ×
                  </button>
                </span>
                <select
                  class="plain give"
                  :aria-label="`${$t('people.give')} ${p.fullName}`"
                  value=""
                  @change="
                    setGrants(p, [
                      ...p.grants,
                      {
                        person: p.id,
                        role: ($event.target as HTMLSelectElement).value.split('|')[0]!,
                        area: ($event.target as HTMLSelectElement).value.split('|')[1] ?? '',
                      },
                    ])
                  ">
                  <option value="">{{ $t('people.give') }}</option>
                  <optgroup v-for="r in roles" :key="r.id" :label="r.name">
                    <option v-for="a in areas" :key="a.id" :value="r.id + '|' + a.id">
                      {{ r.name }} · {{ a.name }}
                    </option>
                  </optgroup>
                </select>
              </td>
            </tr>
          </tbody>
        </table>
        <RoleTable :roles="roles" :rights="rights" :areas="areas" />
        <PanelList v-if="session.may(project.id, 'panels')" />
        <template v-if="session.me?.person?.server">
          <FailedSignIns />
          <CertificateBox />
        </template>
      </div>
    </section>
    <RuleInspector
      v-if="tab === 'rules' && rule"
      :key="rule.id"
      :rule="rule"
      :known="rules"
      @remove="removeRule" />
    <PersonForm
      v-else-if="selected && tab === 'people'"
      :key="selected"
      :person="person"
      @close="selected = undefined"
      @saved="saved" />
  </div>
</template>

<style scoped>
.open {
  color: var(--c-spruce);
  font-weight: 650;
  margin-left: 6px;
}
.split {
  display: flex;
  height: 100%;
}
.split > .stop {
  flex: 1;
  min-width: 0;
}
.body {
  overflow: auto;
  padding: 0 16px 24px;
}
.body h2 {
  margin: 24px 0 6px;
}
.grants {
  display: flex;
  gap: 6px;
  align-items: center;
  flex-wrap: wrap;
  height: auto !important;
  min-height: 36px;
  padding: 4px 10px !important;
}
.give {
  width: 128px;
  min-height: 26px;
  font-size: 12px;
  padding: 0 4px;
}
.own {
  margin-left: 8px;
}
</style>
