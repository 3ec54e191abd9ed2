<script setup lang="ts">
import { mdiContentCopy } from '@mdi/js'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Schemas, sentence } from '../api/client'
import { clock, moment } from '../kit/moment'
import ControllerGroups from './ControllerGroups.vue'

// All that is known of a device and its link, live; in the Workshop and, to
// look at, at the Desk.
const props = defineProps<{ project: string; device: string; program: 'draft' | 'release'; part?: string }>()
const { locale } = useI18n()
const d = shallowRef<Schemas['Diagnosis']>()
const problem = ref('')
const copied = ref(false)
const query = computed(() => ({
  params: {
    path: { project: props.project, id: props.device },
    query: { program: props.program, language: locale.value },
  },
}))

async function load() {
  try {
    d.value = await ask(api.GET('/api/projects/{project}/devices/{id}/diagnosis', query.value))
    problem.value = ''
  } catch (e) {
    problem.value = sentence(e)
  }
}
watch(() => props.device, load, { immediate: true })
useIntervalFn(load, 1000)

const W = 560
const H = 96
const windows = computed(() => d.value?.windows ?? [])
const top = computed(() => Math.max(1, ...windows.value.map((w) => w.maxMs)))
const x = (i: number) => (windows.value.length < 2 ? 0 : (i / (windows.value.length - 1)) * W)
const y = (ms: number) => H - 4 - Math.log10(1 + (9 * ms) / top.value) * (H - 12)
const line = (of: 'p50Ms' | 'p95Ms' | 'maxMs') =>
  windows.value.map((w, i) => `${i ? 'L' : 'M'}${x(i).toFixed(1)} ${y(w[of]).toFixed(1)}`).join('')
const bytes = (n: number) =>
  n < 1e3 ? n + ' B' : n < 1e7 ? (n / 1e3).toFixed(0) + ' kB' : (n / 1e6).toFixed(1) + ' MB'
async function copy() {
  const r = await fetch(
    `/api/projects/${props.project}/devices/${props.device}/report?program=${props.program}`,
  )
  await navigator.clipboard?.writeText(await r.text())
  copied.value = true
  setTimeout(() => (copied.value = false), 2000)
}
</script>

<template>
  <div v-if="problem" class="problem">{{ problem }}</div>
  <div v-else-if="d" class="diag">
    <div class="head">
      <strong>{{ d.name }}</strong>
      <span class="state" :class="d.state">{{ $t($word('link', d.state)) }}</span>
      <span class="quiet">{{ $t('diag.since', { time: moment(d.since, clock) }) }}</span>
      <span class="mono quiet">{{ d.endpoint }}</span>
      <span class="grow" />
      <v-btn size="small" variant="outlined" :prepend-icon="mdiContentCopy" @click="copy">
        {{ copied ? $t('diag.copied') : $t('diag.copy') }}
      </v-btn>
    </div>
    <p v-if="d.problem" :class="d.state === 'up' ? 'quiet' : 'problem'">
      {{ $t('devices.lastAt', { time: moment(d.problemAt, clock) }) }} {{ d.problem }}
    </p>
    <ControllerGroups v-if="d.conditions.length" :groups="d.conditions" :first="part" />
    <p v-if="d.shared" class="quiet">{{ $t('diag.shared') }}</p>
    <div class="tiles">
      <div>
        <span class="quiet">{{ $t('diag.perSecond') }}</span>
        <b class="mono">{{ d.perSecond.toFixed(1) }}</b>
      </div>
      <div>
        <span class="quiet">{{ $t('diag.p50') }}</span>
        <b class="mono">{{ d.p50Ms.toFixed(2) }} ms</b>
      </div>
      <div>
        <span class="quiet">{{ $t('diag.p95') }}</span>
        <b class="mono">{{ d.p95Ms.toFixed(2) }} ms</b>
      </div>
      <div>
        <span class="quiet">{{ $t('diag.max') }}</span>
        <b class="mono">{{ d.maxMs.toFixed(2) }} ms</b>
      </div>
      <div>
        <span class="quiet">{{ $t('diag.requests') }}</span>
        <b class="mono">{{ d.requests }}</b>
      </div>
      <div>
        <span class="quiet">{{ $t('devices.errors') }}</span>
        <b class="mono" :class="{ err: d.errors }">{{ d.errors }}</b>
      </div>
      <div>
        <span class="quiet">{{ $t('diag.bytes') }}</span>
        <b class="mono">{{ bytes(d.sent) }} / {{ bytes(d.got) }}</b>
      </div>
      <div>
        <span class="quiet">{{ $t('diag.reconnects') }}</span>
        <b class="mono">{{ d.reconnects }}</b>
      </div>
      <div v-if="d.heartbeat !== 'none'">
        <span class="quiet">{{ $t('beat.title') }}</span>
        <b :class="{ err: d.heartbeat === 'lost' }">{{ $t($word('diag', d.heartbeat)) }}</b>
      </div>
      <div v-if="d.resting">
        <span class="quiet">{{ $t('diag.resting') }}</span>
        <b class="mono">{{ d.resting }}</b>
      </div>
    </div>
    <figure v-if="windows.length > 1">
      <svg preserveAspectRatio="none" :viewBox="`0 0 ${W} ${H}`" role="img" :aria-label="$t('diag.chart')">
        <path :d="line('maxMs')" class="max" />
        <path :d="line('p95Ms')" class="p95" />
        <path :d="line('p50Ms')" class="p50" />
        <line
          v-for="(w, i) in windows"
          v-show="w.errors"
          :key="w.atMs"
          :x1="x(i)"
          :x2="x(i)"
          y1="0"
          y2="8"
          class="fail" />
      </svg>
      <figcaption class="quiet">
        <span class="k p50">{{ $t('diag.p50') }}</span>
        <span class="k p95">{{ $t('diag.p95') }}</span>
        <span class="k max">{{ $t('diag.max') }}</span>
        <span>{{ $t('diag.window', { top: top.toFixed(1) }) }}</span>
      </figcaption>
    </figure>
    <template v-if="d.errorKinds.length">
      <h2>{{ $t('diag.kinds') }}</h2>
      <table class="grid">
        <tbody>
          <tr v-for="k in d.errorKinds" :key="k.kind">
            <td class="mono r">{{ k.count }}</td>
            <td>{{ k.kind }}</td>
            <td class="mono quiet">{{ moment(k.last, clock) }}</td>
            <td class="wrap">{{ k.text }}</td>
          </tr>
        </tbody>
      </table>
    </template>
    <template v-for="p in d.polls" :key="p.everyMs">
      <h2>{{ $t('diag.poll', { ms: p.everyMs, n: p.points }) }}</h2>
      <p class="quiet">
        {{ $t('diag.kept', { kept: p.kept, missed: p.missed, took: p.tookMs.toFixed(1) }) }}
      </p>
      <table class="grid">
        <tbody>
          <tr v-for="b in p.blocks.slice(0, 200)" :key="b.name">
            <td class="mono">{{ b.name }}</td>
            <td class="mono r">{{ $t('diag.points', { n: b.points }) }}</td>
            <td class="err">{{ b.refused ? $t('diag.refused') : '' }}</td>
          </tr>
        </tbody>
      </table>
    </template>
  </div>
</template>

<style scoped>
.diag {
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 12px 16px;
  overflow: auto;
}
.head {
  display: flex;
  align-items: center;
  gap: 12px;
}
.grow {
  flex: 1;
}
.state {
  font-weight: 650;
  color: var(--c-spruce);
}
.state.down,
.state.connecting {
  color: var(--c-error);
}
.tiles {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(146px, 1fr));
  gap: 8px;
}
.tiles div {
  border: 1px solid var(--c-line);
  border-radius: 4px;
  padding: 4px 10px;
  display: flex;
  flex-direction: column;
  font-size: 12px;
}
.tiles b {
  font-size: 15px;
  white-space: nowrap;
}
figure {
  margin: 0;
}
svg {
  width: 100%;
  height: 110px;
  border: 1px solid var(--c-line);
  border-radius: 4px;
  background: var(--c-paper);
}
path {
  fill: none;
  vector-effect: non-scaling-stroke;
}
.p50 {
  stroke: var(--c-spruce);
  stroke-width: 2;
}
.p95 {
  stroke: var(--c-ink);
  stroke-width: 1.4;
  stroke-dasharray: 6 3;
}
.max {
  stroke: var(--c-quiet);
  stroke-width: 1;
  stroke-dasharray: 2 3;
}
.fail {
  stroke: var(--c-critical);
  stroke-width: 3;
}
figcaption {
  display: flex;
  gap: 16px;
  font-size: 12px;
}
.k::before {
  content: '';
  display: inline-block;
  width: 18px;
  border-top: 2px solid currentColor;
  vertical-align: middle;
  margin-right: 6px;
}
.k.p50::before {
  border-color: var(--c-spruce);
}
.k.p95::before {
  border-top-style: dashed;
  border-color: var(--c-ink);
}
.k.max::before {
  border-top-style: dotted;
}
.r {
  text-align: right !important;
}
.wrap {
  white-space: normal !important;
}
p {
  margin: 0;
}
</style>
