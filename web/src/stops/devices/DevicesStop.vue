<script setup lang="ts">
import { mdiKeyOutline, mdiPlus } from '@mdi/js'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Device, type Schemas } from '../../api/client'
import LinkDiagnosis from '../../links/LinkDiagnosis.vue'
import { freshId, useProject } from '../../rail/project'
import AddressMap from './AddressMap.vue'
import DeviceInspector from './DeviceInspector.vue'
import NodeBrowser from './NodeBrowser.vue'
import RegisterProbe from './RegisterProbe.vue'
import TopicEar from './TopicEar.vue'
import VaultPanel from './VaultPanel.vue'
import type { WordOf } from '../../i18n/word'

const project = useProject()
const route = useRoute()
const router = useRouter()
const { t } = useI18n()
const protocols = shallowRef<Schemas['Protocols']>()
const vault = ref(false)
const tab = ref<WordOf<'devices.tab'>>('diagnosis')
const selected = computed(() => project.devices.find((d) => d.id === route.params.id))
const link = (id: string) => project.links.find((l) => l.device === id)
const select = (id: string) => router.push({ name: 'devices', params: { project: project.id, id } })
onMounted(
  async () =>
    (protocols.value = await ask(
      api.GET('/api/projects/{project}/protocols', { params: { path: project.path } }),
    ).catch(() => undefined)),
)

const tabs = computed((): WordOf<'devices.tab'>[] => {
  switch (selected.value?.protocol) {
    case 'modbus-tcp':
      return ['diagnosis', 'probe', 'map']
    case 'opcua':
      return ['diagnosis', 'browse']
    case 'mqtt':
      return ['diagnosis', 'ear']
  }
  return []
})
watch(tabs, (list) => !list.includes(tab.value) && (tab.value = 'diagnosis'))
const at = (d: Device) => (d.protocol === 'standin' ? '' : `${d.host}:${d.port}`)

async function add(protocol: string) {
  const id = freshId('device')
  const usual = protocols.value?.devices.find((d) => d.protocol === protocol)
  if (!usual) return
  let n = project.devices.length + 1
  while (project.devices.some((d) => d.name === 'Device' + n)) n++
  if (
    !(await project.edit(t('devices.added'), [
      { kind: 'device', id, path: '', value: { ...usual, id, name: 'Device' + n, host: '' } },
    ]))
  )
    await project.refresh().then(() => select(id))
}
</script>

<template>
  <div class="split">
    <section class="stop">
      <div class="stop-head">
        <h1>{{ $t('stop.devices') }}</h1>
        <span class="quiet">{{ $t('devices.line', { n: project.devices.length }) }}</span>
        <span class="grow" />
        <v-btn variant="text" :prepend-icon="mdiKeyOutline" @click="vault = !vault">
          {{ $t('vault.title') }}
        </v-btn>
        <v-menu location="bottom end">
          <template #activator="{ props: p }">
            <v-btn v-bind="p" color="primary" :prepend-icon="mdiPlus">{{ $t('devices.add') }}</v-btn>
          </template>
          <v-list density="compact">
            <v-list-item
              v-for="d in protocols?.devices"
              :key="d.protocol"
              :title="$t($word('protocol', d.protocol))"
              :subtitle="$t($word('protocol.why', d.protocol))"
              @click="add(d.protocol)" />
          </v-list>
        </v-menu>
      </div>
      <VaultPanel v-if="vault" @close="vault = false" />
      <template v-else>
        <div v-if="!project.devices.length" class="empty">
          <h2>{{ $t('devices.empty') }}</h2>
          <p>{{ $t('devices.emptyWhy') }}</p>
          <div class="firsts">
            <v-btn
              v-for="d in protocols?.devices"
              :key="d.protocol"
              variant="outlined"
              color="primary"
              @click="add(d.protocol)">
              {{ $t($word('protocol', d.protocol)) }}
            </v-btn>
          </div>
        </div>
        <div v-else class="table">
          <table class="grid">
            <thead>
              <tr>
                <th>{{ $t('common.name') }}</th>
                <th>{{ $t('devices.protocol') }}</th>
                <th>{{ $t('devices.at') }}</th>
                <th>{{ $t('devices.link') }}</th>
                <th class="r">{{ $t('devices.roundTrip') }}</th>
                <th class="r">{{ $t('devices.requests') }}</th>
                <th class="r">{{ $t('devices.points') }}</th>
                <th>{{ $t('devices.last') }}</th>
              </tr>
            </thead>
            <tbody>
              <tr
                v-for="d in project.devices"
                :key="d.id"
                :class="{ on: d.id === selected?.id }"
                tabindex="0"
                @click="select(d.id)"
                @keydown.enter="select(d.id)">
                <td>
                  <strong>{{ d.name }}</strong>
                </td>
                <td>{{ $t($word('protocol', d.protocol)) }}</td>
                <td class="mono">
                  {{ at(d) }}
                  <span v-if="d.protocol === 'modbus-tcp'" class="quiet">· {{ d.unit }}</span>
                </td>
                <td>
                  <span class="state" :class="link(d.id)?.state">
                    {{ $t($word('link', link(d.id)?.state ?? 'idle')) }}
                  </span>
                </td>
                <td class="mono r">
                  {{
                    link(d.id)?.state === 'up' && d.protocol !== 'standin'
                      ? link(d.id)!.roundTripMs.toFixed(2) + ' ms'
                      : ''
                  }}
                </td>
                <td class="mono r">{{ link(d.id)?.blocks || '' }}</td>
                <td class="mono r">
                  {{ link(d.id)?.points || '' }}
                  <span v-if="link(d.id)?.failing" class="err">· {{ link(d.id)!.failing }}</span>
                </td>
                <td class="quiet why" :title="link(d.id)?.problem">{{ link(d.id)?.problem }}</td>
              </tr>
            </tbody>
          </table>
        </div>
        <template v-if="selected && tabs.length">
          <div class="tabs" role="tablist">
            <button
              v-for="x in tabs"
              :key="x"
              role="tab"
              :aria-selected="tab === x"
              :class="{ on: tab === x }"
              @click="tab = x">
              {{ $t($word('devices.tab', x)) }}
            </button>
          </div>
          <div class="below">
            <LinkDiagnosis
              v-if="tab === 'diagnosis'"
              :key="selected.id"
              :project="project.id"
              :device="selected.id"
              program="draft" />
            <RegisterProbe v-else-if="tab === 'probe'" :key="'p' + selected.id" :device="selected" />
            <AddressMap v-else-if="tab === 'map'" :device="selected" />
            <NodeBrowser v-else-if="tab === 'browse'" :device="selected" />
            <TopicEar v-else-if="tab === 'ear'" :key="'e' + selected.id" :device="selected" />
          </div>
        </template>
      </template>
    </section>
    <DeviceInspector
      v-if="selected && !vault"
      :key="selected.id"
      :device="selected"
      :link="link(selected.id)"
      :protocols="protocols" />
  </div>
</template>

<style scoped>
.split {
  display: flex;
  height: 100%;
}
.split > .stop {
  flex: 1;
  min-width: 0;
  overflow: auto;
}
.firsts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  justify-content: center;
}
.table {
  flex: none;
  max-height: 45%;
  overflow: auto;
}
.r {
  text-align: right !important;
}
.why {
  max-width: 240px;
}
tr {
  cursor: pointer;
}
.state {
  vertical-align: middle;
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.state::before {
  content: '';
  width: 7px;
  height: 16px;
  border-radius: 2px;
  background: var(--c-spruce);
  box-sizing: border-box;
}
.state.down::before,
.state.connecting::before {
  background: none;
  border: 2px solid var(--c-error);
}
.state.down {
  color: var(--c-error);
}
.state.idle::before {
  background: none;
  border: 2px dotted var(--c-quiet);
}
.tabs {
  display: flex;
  gap: 2px;
  padding: 10px 16px 0;
  background: var(--c-paper);
  border-bottom: 1px solid var(--c-line);
  flex: none;
}
.tabs button {
  border: 0;
  background: none;
  padding: 6px 14px;
  cursor: pointer;
  color: var(--c-quiet);
  border-bottom: 3px solid transparent;
}
.tabs .on {
  color: var(--c-ink);
  font-weight: 650;
  border-color: var(--c-spruce);
}
.below {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  overflow: auto;
}
</style>
