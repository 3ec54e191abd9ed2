<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '../api/client'
import { dayAndTime, moment } from '../kit/moment'
import { span } from '../kit/span'
import AlarmTab from './AlarmTab.vue'
import PathText from '../kit/PathText.vue'

/** How the alarms of a desk did over a time, each figure beside its target; and which of them to mend. */
const props = defineProps<{ project: string; areas: { id: string; name: string }[]; mends?: boolean }>()
const emit = defineEmits<{ mend: [alarm: string] }>()
const hours = ref(24)
const area = ref('')
const result = shallowRef<Schemas['Performance']>()
const problem = ref('')
watch(
  [hours, area, () => props.project],
  async () => {
    const to = Date.now()
    try {
      result.value = await ask(
        api.GET('/api/projects/{project}/alarm-performance', {
          params: {
            path: { project: props.project },
            query: { from: to - hours.value * 3600_000, to, area: area.value || undefined },
          },
        }),
      )
      problem.value = ''
    } catch (e) {
      problem.value = sentence(e)
    }
  },
  { immediate: true },
)

const tail: Record<string, string> = { flood: ' %', top: ' %' }
const figure = (f: Schemas['Figure'], v: number) =>
  (f.name === 'average' || tail[f.name] ? v.toFixed(1) : String(v)) + (tail[f.name] ?? '')
const nameOf = (id: string) => props.areas.find((a) => a.id === id)?.name ?? '—'
/** At most 240 bars: the worst of the ten minutes that share one. */
const bars = computed(() => {
  const list = result.value?.slices ?? []
  const each = Math.max(1, Math.ceil(list.length / 240))
  return Array.from({ length: Math.ceil(list.length / each) }, (_, i) =>
    Math.max(...list.slice(i * each, (i + 1) * each)),
  )
})
const top = computed(() => Math.max(12, ...bars.value))
const nuisance = computed(() => {
  const r = result.value
  if (!r) return []
  return [...new Map([...r.chattering, ...r.fleeting].map((f) => [f.alarm, f])).values()]
})
</script>

<template>
  <div class="performance">
    <div class="ask">
      <select v-model="area" class="plain" :aria-label="$t('alarm.column.area')">
        <option value="">{{ $t('alarm.allAreas') }}</option>
        <option v-for="a in areas" :key="a.id" :value="a.id">{{ a.name }}</option>
      </select>
      <button
        v-for="h in [8, 24, 168, 720]"
        :key="h"
        class="chip"
        :class="{ on: hours === h }"
        :aria-pressed="hours === h"
        @click="hours = h">
        {{ span(h * 3600) }}
      </button>
      <span v-if="result" class="quiet">
        {{
          $t('performance.line', {
            n: result.alarms,
            from: moment(result.from, dayAndTime),
            to: moment(result.to, dayAndTime),
          })
        }}
      </span>
    </div>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <template v-if="result">
      <div class="figures">
        <div v-for="f in result.figures" :key="f.name" class="figure" :class="{ missed: !f.met }">
          <span class="quiet">{{ $t($word('performance.figure', f.name)) }}</span>
          <strong class="mono">{{ figure(f, f.value) }}</strong>
          <span class="target">
            {{ f.met ? '✓' : '✗' }}
            {{ $t('performance.target', { v: figure(f, f.target).replace('.0', '') }) }}
          </span>
        </div>
      </div>
      <svg
        class="load"
        :viewBox="`0 0 ${bars.length} 60`"
        preserveAspectRatio="none"
        role="img"
        :aria-label="$t('performance.load')">
        <rect
          v-for="(n, i) in bars"
          :key="i"
          :x="i + 0.1"
          width="0.8"
          :y="60 - (60 * n) / top"
          :height="(60 * n) / top"
          :class="{ flood: n > 10 }">
          <title>{{ n }}</title>
        </rect>
        <line x1="0" :x2="bars.length" :y1="60 - 600 / top" :y2="60 - 600 / top" />
      </svg>
      <p class="quiet under">{{ $t('performance.load') }}</p>
      <div class="columns">
        <section>
          <h3>{{ $t('performance.frequent') }}</h3>
          <table class="grid">
            <thead>
              <tr>
                <th>{{ $t('alarm.column.name') }}</th>
                <th class="n">{{ $t('whatIf.came') }}</th>
                <th class="n">{{ $t('performance.share') }}</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="f in result.frequent" :key="f.alarm">
                <td class="name">
                  <span class="marked">
                    <AlarmTab :priority="f.priority" state="" text="" />
                    <PathText :path="f.name" />
                  </span>
                </td>
                <td class="n mono">{{ f.count }}</td>
                <td class="n mono">{{ f.share.toFixed(1) }} %</td>
              </tr>
            </tbody>
          </table>
          <p v-if="!result.frequent.length" class="quiet">{{ $t('performance.nothing') }}</p>
        </section>
        <section>
          <h3>{{ $t('performance.nuisance') }}</h3>
          <table class="grid">
            <thead>
              <tr>
                <th>{{ $t('alarm.column.name') }}</th>
                <th class="n">{{ $t('performance.chatter') }}</th>
                <th class="n">{{ $t('performance.fleeting') }}</th>
                <th v-if="mends" />
              </tr>
            </thead>
            <tbody>
              <tr v-for="f in nuisance" :key="f.alarm">
                <td class="name">
                  <PathText :path="f.name" />
                </td>
                <td class="n mono">{{ f.chatter || '' }}</td>
                <td class="n mono">{{ f.fleeting || '' }}</td>
                <td v-if="mends">
                  <button class="chip" @click="emit('mend', f.alarm)">{{ $t('performance.mend') }}</button>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-if="!nuisance.length" class="quiet">{{ $t('performance.quiet') }}</p>
          <template v-if="result.stale.length">
            <h3>{{ $t('performance.stale') }}</h3>
            <table class="grid">
              <tbody>
                <tr v-for="f in result.stale" :key="f.alarm">
                  <td class="name">
                    <PathText :path="f.name" />
                  </td>
                  <td class="n mono">{{ span(f.longest) }}</td>
                </tr>
              </tbody>
            </table>
          </template>
        </section>
        <section>
          <h3>{{ $t('performance.priorities') }}</h3>
          <table class="grid">
            <thead>
              <tr>
                <th>{{ $t('alarm.column.priority') }}</th>
                <th class="n">{{ $t('performance.share') }}</th>
                <th class="n">{{ $t('performance.acked') }}</th>
                <th class="n">{{ $t('performance.median') }}</th>
                <th class="n">95 %</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="w in result.waited" :key="w.priority">
                <td><AlarmTab :priority="w.priority" state="" /></td>
                <td
                  class="n mono"
                  :class="{ missed: w.share > w.target }"
                  :title="w.target < 100 ? $t('performance.target', { v: w.target + ' %' }) : undefined">
                  {{ w.share.toFixed(0) }} %
                </td>
                <td class="n mono">{{ w.acked }}/{{ w.count }}</td>
                <td class="n mono">{{ w.acked ? span(w.median) : '' }}</td>
                <td class="n mono">{{ w.acked ? span(w.most) : '' }}</td>
              </tr>
            </tbody>
          </table>
          <template v-if="result.areas.length">
            <h3>{{ $t('performance.areas') }}</h3>
            <table class="grid">
              <thead>
                <tr>
                  <th>{{ $t('alarm.column.area') }}</th>
                  <th class="n">{{ $t('whatIf.came') }}</th>
                  <th class="n">{{ $t('performance.average') }}</th>
                  <th class="n">{{ $t('performance.peak') }}</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="a in result.areas" :key="a.area">
                  <td>{{ nameOf(a.area) }}</td>
                  <td class="n mono">{{ a.count }}</td>
                  <td class="n mono">{{ a.average.toFixed(2) }}</td>
                  <td class="n mono">{{ a.peak }}</td>
                </tr>
              </tbody>
            </table>
          </template>
          <template v-if="result.floods.length">
            <h3>{{ $t('performance.floods') }}</h3>
            <table class="grid">
              <tbody>
                <tr v-for="f in result.floods.slice(-8)" :key="f.from">
                  <td>{{ moment(f.from, dayAndTime) }}</td>
                  <td class="n mono">{{ span((f.to - f.from) / 1000) }}</td>
                  <td class="n mono">{{ f.count }}</td>
                </tr>
              </tbody>
            </table>
          </template>
        </section>
      </div>
    </template>
  </div>
</template>

<style scoped>
.performance {
  overflow: auto;
  padding: 12px 16px;
  font-size: 14px;
}
.ask {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
}
.ask .plain {
  width: 180px;
}
.chip.on {
  background: var(--c-tint);
  border-color: var(--c-spruce);
}
.figures {
  display: grid;
  grid-template-columns: repeat(7, minmax(0, 1fr));
  gap: 10px;
  margin: 12px 0;
}
.figure {
  border: 1px solid var(--c-line);
  border-left: 4px solid var(--c-spruce);
  border-radius: 4px;
  padding: 6px 10px;
  display: grid;
  background: var(--c-sheet);
}
.figure .quiet {
  font-size: 12px;
  min-height: 32px;
  line-height: 1.3;
}
.figure strong {
  font-size: 22px;
}
.figure.missed {
  border-left-color: var(--c-high);
}
.target {
  font-size: 12px;
}
.load {
  width: 100%;
  height: 70px;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
  display: block;
}
.load rect {
  fill: var(--c-spruce);
}
.load rect.flood {
  fill: var(--c-high);
}
.load line {
  stroke: var(--c-ink);
  stroke-dasharray: 2 3;
  stroke-width: 1;
  vector-effect: non-scaling-stroke;
}
.under {
  font-size: 12px;
  margin: 2px 0 10px;
}
.columns {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr)) minmax(440px, 1fr);
  gap: 18px;
}
h3 {
  font-size: 14px;
  margin: 8px 0 4px;
}
.grid {
  width: 100%;
  table-layout: auto;
}
.grid td,
.grid th {
  padding-left: 4px;
  padding-right: 4px;
}
.marked {
  display: flex;
  align-items: center;
  gap: 6px;
}
.name > .path-text {
  display: block;
  max-width: 100%;
}
.name {
  max-width: 0;
  width: 70%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.n {
  text-align: right;
  white-space: nowrap;
  font-size: 13px;
}
td.missed {
  font-weight: 700;
  text-decoration: underline;
}
</style>
