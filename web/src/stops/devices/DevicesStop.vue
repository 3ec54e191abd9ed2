<script setup lang="ts">
import { mdiPlus } from '@mdi/js'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { freshId, useProject } from '../../rail/project'
import DeviceInspector from './DeviceInspector.vue'
import { newDevice } from './newDevice'

const project = useProject()
const route = useRoute()
const router = useRouter()
const { t } = useI18n()
const selected = computed(() => project.devices.find((d) => d.id === route.params.id))
const link = (id: string) => project.links.find((l) => l.device === id)
const select = (id: string) => router.push({ name: 'devices', params: { project: project.id, id } })

async function add() {
  const id = freshId('device')
  let n = project.devices.length + 1
  while (project.devices.some((d) => d.name === 'Device' + n)) n++
  if (!(await project.edit(t('devices.added'), [{ kind: 'device', id, path: '', value: newDevice('Device' + n) }]))) await project.refresh().then(() => select(id))
}
</script>

<template>
  <div class="split">
    <section class="stop">
      <div class="stop-head">
        <h1>{{ $t('stop.devices') }}</h1><span class="quiet">{{ $t('devices.line', { n: project.devices.length }) }}</span><span class="grow" />
        <v-btn color="primary" :prepend-icon="mdiPlus" @click="add">{{ $t('devices.add') }}</v-btn>
      </div>
      <div v-if="!project.devices.length" class="empty"><h2>{{ $t('devices.empty') }}</h2><p>{{ $t('devices.emptyWhy') }}</p></div>
      <table v-else class="grid">
        <thead><tr><th>{{ $t('common.name') }}</th><th>{{ $t('devices.at') }}</th><th>{{ $t('devices.unit') }}</th><th>{{ $t('devices.link') }}</th><th class="r">{{ $t('devices.roundTrip') }}</th><th class="r">{{ $t('devices.requests') }}</th><th class="r">{{ $t('devices.points') }}</th><th>{{ $t('devices.last') }}</th></tr></thead>
        <tbody>
          <tr v-for="d in project.devices" :key="d.id" :class="{ on: d.id === selected?.id }" tabindex="0" @click="select(d.id)" @keydown.enter="select(d.id)">
            <td><strong>{{ d.name }}</strong></td>
            <td class="mono">{{ d.host }}:{{ d.port }}</td>
            <td class="mono">{{ d.unit }}</td>
            <td><span class="state" :class="link(d.id)?.state">{{ $t('link.' + (link(d.id)?.state ?? 'idle')) }}</span></td>
            <td class="mono r">{{ link(d.id)?.state === 'up' ? link(d.id)!.roundTripMs.toFixed(2) + ' ms' : '' }}</td>
            <td class="mono r">{{ link(d.id)?.blocks ?? '' }}</td>
            <td class="mono r">{{ link(d.id)?.points ?? '' }}<span v-if="link(d.id)?.failing" class="err"> · {{ link(d.id)!.failing }}</span></td>
            <td class="quiet why" :title="link(d.id)?.problem">{{ link(d.id)?.problem }}</td>
          </tr>
        </tbody>
      </table>
    </section>
    <DeviceInspector v-if="selected" :key="selected.id" :device="selected" :link="link(selected.id)" />
  </div>
</template>

<style scoped>
.split { display: flex; height: 100%; }
.split > .stop { flex: 1; min-width: 0; overflow: auto; }
.r { text-align: right !important; }
.why { max-width: 240px; }
tr { cursor: pointer; }
.state { vertical-align: middle; display: inline-flex; align-items: center; gap: 6px; }
.state::before { content: ''; width: 7px; height: 16px; border-radius: 2px; background: var(--c-spruce); box-sizing: border-box; }
.state.down::before, .state.connecting::before { background: none; border: 2px solid var(--c-error); }
.state.down { color: var(--c-error); }
.state.idle::before { background: none; border: 2px dotted var(--c-quiet); }
</style>
