<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api, ask, sentence, type Schemas } from '../api/client'
import { useSession } from '../api/session'
import { moment, toSecond } from '../kit/moment'
import { typedNumber } from '../kit/number'
import type { Line } from './pens'
import type { Range } from './range'
import type { Source } from './source'
import WorkBar from './WorkBar.vue'

// The times from an edge of one signal to the next of another, over the range
// that is looked at: how many, how they lie, and those that are not as expected.
const props = defineProps<{ source: Source; rows: Line[]; names: Map<string, string>; range: Range }>()
const emit = defineEmits<{ look: [stretch: Range] }>()
const bools = computed(() => props.rows.filter((l) => l.row?.bool))
// The way of an edge stands before its tag: + for coming on, - for going off.
const first = ref('')
const second = ref('')
const least = ref('')
const most = ref('')
watch(
  bools,
  (list) => {
    const has = (edge: string) => list.some((l) => l.tag === edge.slice(1))
    if (!has(first.value)) first.value = list[0] ? '+' + list[0].tag : ''
    if (!has(second.value)) second.value = list.at(-1) ? '+' + list.at(-1)!.tag : ''
  },
  { immediate: true },
)
const pairs = shallowRef<Schemas['EdgePairs']>()
const session = useSession()
const proof = shallowRef<Schemas['PairProof']>()
const problem = ref('')
const number = (text: string) => Math.max(0, typedNumber(text) ?? 0)
const asked = () => ({
  first: first.value.slice(1),
  firstFall: first.value[0] === '-',
  second: second.value.slice(1),
  secondFall: second.value[0] === '-',
  least: number(least.value),
  most: number(most.value),
  from: Math.round(props.range.from),
  to: Math.round(props.range.to),
  log: props.source.log,
})
/** Measures once more, and keeps the result with the loop checks of the two. */
async function prove() {
  problem.value = ''
  proof.value = await ask(
    api.POST('/api/projects/{project}/trend/pairs/proofs', {
      params: { path: { project: props.source.project } },
      body: asked(),
    }),
  ).catch((e) => ((problem.value = sentence(e)), undefined))
}
async function measure() {
  problem.value = ''
  proof.value = undefined
  try {
    pairs.value = await ask(
      api.GET('/api/projects/{project}/trend/pairs', {
        params: {
          path: { project: props.source.project },
          query: asked(),
        },
      }),
    )
  } catch (e) {
    problem.value = sentence(e)
  }
}
const seconds = (v: number | null | undefined) =>
  v === null || v === undefined ? '—' : v.toFixed(v < 100 ? 2 : 1) + ' s'
const unsure = computed(() => (pairs.value?.unsure ? ` ± ${pairs.value.unsure}` : ''))
const tallest = computed(() => Math.max(1, ...(pairs.value?.bins.counts ?? [])))
const W = 420
const H = 92
const bar = computed(() => W / Math.max(1, pairs.value?.bins.counts.length ?? 1))
const end = computed(() => {
  const b = pairs.value!.bins
  return b.from + b.width * b.counts.length
})
/** Where a time stands under the bars; nothing for no bound. */
function bound(text: string): number | undefined {
  const v = number(text)
  const b = pairs.value!.bins
  return v > b.from && v < end.value ? ((v - b.from) / (end.value - b.from)) * W : undefined
}
const MOST = 200
/** Those that are not as expected come first, then the newest. */
const listed = computed(() =>
  [...pairs.value!.list].sort((a, b) => Number(a.fits === 'yes') - Number(b.fits === 'yes')).slice(0, MOST),
)
</script>

<template>
  <div class="edges">
    <p v-if="bools.length < 2" class="quiet sum">{{ $t('trend.edge.need') }}</p>
    <WorkBar v-else @send="measure">
      <select v-model="first" class="plain" :aria-label="$t('trend.edge.first')">
        <template v-for="l in bools" :key="l.tag">
          <option :value="'+' + l.tag">{{ names.get(l.tag) }} ↑</option>
          <option :value="'-' + l.tag">{{ names.get(l.tag) }} ↓</option>
        </template>
      </select>
      →
      <select v-model="second" class="plain" :aria-label="$t('trend.edge.second')">
        <template v-for="l in bools" :key="l.tag">
          <option :value="'+' + l.tag">{{ names.get(l.tag) }} ↑</option>
          <option :value="'-' + l.tag">{{ names.get(l.tag) }} ↓</option>
        </template>
      </select>
      <label>
        {{ $t('trend.edge.expected') }}
        <input
          v-model="least"
          class="plain mono short"
          inputmode="decimal"
          :aria-label="$t('trend.edge.least')" />
        –
        <input
          v-model="most"
          class="plain mono short"
          inputmode="decimal"
          :aria-label="$t('trend.edge.most')" />
        s
      </label>
      <button type="submit" class="chip on">{{ $t('trend.edge.go') }}</button>
      <button
        v-if="pairs && session.may(source.project, 'commission')"
        type="button"
        class="chip"
        :disabled="!number(least) && !number(most)"
        :title="$t('trend.edge.proveHint')"
        @click="prove">
        {{ $t('trend.edge.prove') }}
      </button>
    </WorkBar>
    <p v-if="proof" class="sum" role="status">
      <strong>{{ $t($word('trend.edge.proved', proof.result), { paths: proof.paths.join(', ') }) }}</strong>
      {{ proof.note }}
    </p>
    <p v-if="problem" class="said" role="alert">{{ problem }}</p>
    <div v-else-if="pairs" class="result">
      <div>
        <p class="sum mono" aria-live="polite">
          <strong>
            {{
              $t('trend.edge.sum', {
                n: pairs.count,
                least: seconds(pairs.least),
                most: seconds(pairs.most),
              })
            }}{{ unsure }}
          </strong>
        </p>
        <p class="sum quiet mono">
          {{
            $t('trend.edge.figures', {
              mean: seconds(pairs.mean),
              median: seconds(pairs.median),
              deviation: seconds(pairs.deviation),
            })
          }}
        </p>
        <p v-if="pairs.early || pairs.late || pairs.without" class="sum outside">
          {{ $t('trend.edge.outside', { early: pairs.early, late: pairs.late, without: pairs.without }) }}
        </p>
        <svg
          v-if="pairs.count"
          :viewBox="`0 0 ${W} ${H + 18}`"
          class="bins"
          role="img"
          :aria-label="$t('trend.edge.bins')">
          <rect
            v-for="(n, i) in pairs.bins.counts"
            :key="i"
            :x="i * bar + 0.5"
            :y="H - (n / tallest) * (H - 14)"
            :width="Math.max(1, bar - 1)"
            :height="(n / tallest) * (H - 14)">
            <title>{{ n }}</title>
          </rect>
          <line x1="0" :x2="W" :y1="H" :y2="H" />
          <template v-for="(text, i) in [least, most]" :key="'b' + i">
            <line v-if="bound(text)" class="bound" :x1="bound(text)" :x2="bound(text)" y1="4" :y2="H" />
          </template>
          <text x="0" :y="H + 14">{{ seconds(pairs.bins.from) }}</text>
          <text :x="W" :y="H + 14" text-anchor="end">{{ seconds(end) }}</text>
          <text :x="W" y="12" text-anchor="end">{{ tallest }}×</text>
        </svg>
      </div>
      <table class="grid">
        <thead>
          <tr>
            <th>{{ $t('trend.find.from') }}</th>
            <th class="n">{{ $t('trend.edge.took') }}</th>
            <th />
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in listed" :key="p.at" :class="{ odd: p.fits !== 'yes' }">
            <td>
              <button class="bare mono" @click="emit('look', { from: p.at, to: p.at + p.took * 1000 })">
                {{ moment(p.at, toSecond) }}
              </button>
            </td>
            <td class="n mono">{{ p.fits === 'without' ? '—' : seconds(p.took) + unsure }}</td>
            <td>{{ p.fits === 'yes' ? '' : $t($word('trend.edge', p.fits)) }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </div>
</template>

<style scoped>
.sum,
.said {
  margin: 4px 16px;
}
.said,
.outside {
  color: var(--c-error);
}
.result {
  display: flex;
  flex-wrap: wrap;
  gap: 16px;
  align-items: flex-start;
}
.result > table {
  flex: 1 1 300px;
  max-width: 520px;
}
.bins {
  width: 420px;
  margin: 4px 16px;
  font: 12px var(--mono);
  fill: var(--c-quiet);
}
.bins rect {
  fill: var(--c-spruce);
}
.bins line {
  stroke: var(--c-quiet);
}
.bins .bound {
  stroke: var(--c-high);
  stroke-dasharray: 3 3;
}
.n {
  text-align: right;
}
.odd td {
  font-weight: 700;
}
</style>
