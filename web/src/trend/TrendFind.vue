<script setup lang="ts">
import { computed, onBeforeUnmount, ref, shallowRef } from 'vue'
import { api, ask, sentence, type Schemas } from '../api/client'
import { moment, toSecond } from '../kit/moment'
import { typedNumber } from '../kit/number'
import { span } from '../kit/span'
import type { Range } from './range'
import type { Source } from './source'
import WorkBar from './WorkBar.vue'

// Looks for the moments at which a condition held, in the range that is looked
// at, and lists them; a press goes there.
const props = defineProps<{
  source: Source
  program: 'draft' | 'release'
  range: Range
  /** What was found can become an alarm. */
  alarms?: boolean
}>()
const emit = defineEmits<{ look: [stretch: Range]; alarm: [condition: string, least: number] }>()
const condition = defineModel<string>({ default: '' })
const least = ref('')
const found = shallowRef<Schemas['Found']>()
const problem = ref('')
const asking = shallowRef<AbortController>()
/** How much of a search that takes its time is done. */
const share = ref<number>()
/** What was looked for, as it was found. */
const answered = ref({ condition: '', least: 0 })
const newest = computed(() => [...(found.value?.stretches ?? [])].reverse())

/** Looks for another condition at once. */
function look(text: string) {
  if (text === condition.value) return
  condition.value = text
  if (text.trim()) void find(text)
}
async function find(text = condition.value) {
  asking.value?.abort()
  const mine = (asking.value = new AbortController())
  const search = String(Math.random()).slice(2)
  const seconds = Math.max(0, typedNumber(least.value) ?? 0)
  const path = { project: props.source.project }
  problem.value = ''
  share.value = undefined
  const watched = window.setInterval(async () => {
    const params = { path: { ...path, search } }
    const done = await ask(
      api.GET('/api/projects/{project}/trend/find/{search}', { params, signal: mine.signal }),
    ).catch(() => undefined)
    if (asking.value === mine && done) share.value = done.share
  }, 500)
  try {
    const got = await ask(
      api.GET('/api/projects/{project}/trend/find', {
        params: {
          path,
          query: {
            program: props.program,
            condition: text,
            least: Math.round(1000 * seconds),
            search,
            from: Math.round(props.range.from),
            to: Math.round(props.range.to),
            log: props.source.log,
          },
        },
        signal: mine.signal,
      }),
    )
    if (asking.value === mine) {
      found.value = got
      answered.value = { condition: text, least: seconds }
    }
  } catch (e) {
    if (!mine.signal.aborted) problem.value = sentence(e)
  }
  window.clearInterval(watched)
  if (asking.value === mine) asking.value = undefined
}
const stop = () => {
  asking.value?.abort()
  asking.value = undefined
}
onBeforeUnmount(stop)
const MOST = 200
</script>

<template>
  <div class="find">
    <WorkBar class="ask" @send="find()">
      <slot :value="condition" :set="look">
        <input
          v-model="condition"
          class="plain mono what"
          :placeholder="$t('trend.find.hint')"
          :aria-label="$t('trend.find.condition')" />
      </slot>
      <label>
        {{ $t('trend.find.least') }}
        <input v-model="least" class="plain mono short" inputmode="decimal" />
        s
      </label>
      <button v-if="!asking" type="submit" class="chip on" :disabled="!condition.trim()">
        {{ $t('trend.find.go') }}
      </button>
      <button v-else type="button" class="chip" @click="stop">{{ $t('trend.find.stop') }}</button>
      <span v-if="asking && share !== undefined" class="mono" role="status">
        {{ $t('trend.find.done', { percent: Math.floor(100 * share) }) }}
      </span>
      <button
        v-if="alarms && !asking && found"
        type="button"
        class="chip"
        @click="emit('alarm', answered.condition, answered.least)">
        {{ $t('trend.find.alarm') }}
      </button>
    </WorkBar>
    <p v-if="problem" class="said" role="alert">{{ problem }}</p>
    <template v-else-if="found">
      <p class="sum" aria-live="polite">
        {{ $t('trend.find.sum', { n: found.count, time: span(found.seconds) }) }}
      </p>
      <table v-if="found.count" class="grid">
        <thead>
          <tr>
            <th>{{ $t('trend.find.from') }}</th>
            <th class="n">{{ $t('trend.find.long') }}</th>
            <th v-for="path in found.tags" :key="path" class="mono n">{{ path }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in newest.slice(0, MOST)" :key="s.from">
            <td>
              <button class="bare mono" @click="emit('look', { from: s.from, to: s.to })">
                {{ moment(s.from, toSecond) }}
              </button>
            </td>
            <td class="n mono">{{ span((s.to - s.from) / 1000) }}</td>
            <td v-for="(v, i) in s.values" :key="i" class="n mono">{{ v || '—' }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="found.count > MOST" class="quiet sum">
        {{ $t('trend.find.more', { n: found.count - MOST }) }}
      </p>
    </template>
    <p v-else class="quiet sum">{{ $t('trend.find.about') }}</p>
  </div>
</template>

<style scoped>
.ask > :first-child {
  flex: 1 1 320px;
}
.sum,
.said {
  margin: 4px 16px;
}
.said {
  color: var(--c-error);
}
.n {
  text-align: right;
}
</style>
