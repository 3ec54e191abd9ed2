<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '../api/client'
import AlarmTab from '../alarms/AlarmTab.vue'
import LimitBox from '../alarms/LimitBox.vue'
import { dayAndTime, moment } from '../kit/moment'
import { useSession } from '../api/session'
import TagTrail from '../audit/TagTrail.vue'
import PointTrace from './PointTrace.vue'

// All that there is to say of a point, where it is shown: at the Desk and in
// the Workshop.
const props = defineProps<{ project: string; id: string; program: 'release' | 'try' | 'draft' }>()
const card = shallowRef<Schemas['PointCard']>()
const limiting = ref('')
const problem = ref('')
const holding = ref(false)
const value = ref('')
const reason = ref('')
const minutes = ref('60')
const session = useSession()
const path = () => ({ project: props.project, id: props.id })

async function load() {
  card.value = await ask(
    api.GET('/api/projects/{project}/points/{id}', {
      params: { path: path(), query: { program: props.program } },
    }),
  ).catch((e) => {
    problem.value = sentence(e)
    return card.value
  })
}
watch(() => props.id, load, { immediate: true })
useIntervalFn(load, 1000)

async function act(work: () => Promise<unknown>) {
  problem.value = ''
  try {
    await work()
    holding.value = false
    await load()
  } catch (e) {
    problem.value = sentence(e)
  }
}
const hold = () =>
  act(() =>
    ask(
      api.PUT('/api/projects/{project}/overrides/{id}', {
        params: { path: path() },
        body: { value: value.value, reason: reason.value, minutes: Number(minutes.value) },
      }),
    ),
  )
const giveBack = () =>
  act(() => ask(api.DELETE('/api/projects/{project}/overrides/{id}', { params: { path: path() } })))
</script>

<template>
  <div v-if="card" class="card">
    <div class="path mono">{{ card.path }}</div>
    <div v-if="card.description" class="what">{{ card.description }}</div>
    <div class="now" :class="card.held ? 'held' : card.level">
      <strong class="mono">{{ card.value || '—' }}</strong>
      <span>{{ card.reason || $t('point.good') }}</span>
    </div>
    <div v-for="a in card.alarms" :key="a.id" class="alarm">
      <AlarmTab v-if="a.state !== 'normal'" :priority="a.priority" :state="a.state" :text="a.name" />
      <span v-else class="quiet">{{ a.name }}</span>
      <span class="quiet">{{ $t($word('alarm.state', a.state)) }}</span>
      <button
        v-if="a.setLimit && card.mayLimit"
        class="chip"
        :aria-expanded="limiting === a.id"
        @click="limiting = limiting === a.id ? '' : a.id">
        {{ $t('alarm.changeLimit', { limit: a.setLimit }) }}
      </button>
      <LimitBox v-if="limiting === a.id" :project="project" :alarm="a" @done="limiting = ''" />
    </div>
    <PointTrace v-if="!card.type.startsWith('STRING')" :id="id" :project="project" />
    <router-link
      v-if="session.may(project, 'engineer')"
      class="chip"
      :to="{ name: 'history', params: { project }, query: { tags: card.id } }">
      {{ $t('point.history') }}
    </router-link>
    <dl>
      <dt>{{ $t('point.raw') }}</dt>
      <dd class="mono">{{ card.raw || '—' }}</dd>
      <dt>{{ $t('point.since') }}</dt>
      <dd>{{ moment(new Date(card.since), dayAndTime) }}</dd>
      <template v-if="card.low || card.high">
        <dt>{{ $t('pad.limits') }}</dt>
        <dd class="mono">{{ card.low || '…' }} – {{ card.high || '…' }}</dd>
      </template>
      <dt>{{ $t('point.source') }}</dt>
      <dd>
        {{ card.device || $t($word('point', card.source)) }}
        <span class="mono">{{ card.address }}</span>
      </dd>
      <template v-if="card.formula">
        <dt>{{ $t('point.formula') }}</dt>
        <dd class="mono">{{ card.formula }}</dd>
      </template>
      <dt>{{ $t('point.type') }}</dt>
      <dd class="mono">{{ card.type }}</dd>
      <template v-if="card.source === 'device'">
        <dt>{{ $t('point.check') }}</dt>
        <dd>{{ $t($word('point.checked', card.check || 'untested')) }}</dd>
      </template>
    </dl>
    <div v-if="card.held" class="hold">
      <div>
        {{ $t('hold.held', { value: card.held.value }) }}
        {{ $t('hold.by', { name: card.held.person, until: moment(new Date(card.held.until), dayAndTime) }) }}.
        {{ card.held.reason }}
      </div>
      <button v-if="card.mayHold" @click="giveBack">{{ $t('hold.give') }}</button>
    </div>
    <button v-else-if="card.mayHold && !holding" class="begin" @click="holding = true">
      {{ $t('hold.begin') }}
    </button>
    <form v-if="holding" class="hold" @submit.prevent="hold">
      <label>
        {{ $t('hold.value') }}
        <input v-model="value" class="mono" />
      </label>
      <label>
        {{ $t('hold.minutes') }}
        <input v-model="minutes" class="mono" />
      </label>
      <label class="wide">
        {{ $t('hold.reason') }}
        <input v-model="reason" />
      </label>
      <button type="submit" :disabled="!reason.trim() || !value.trim()">{{ $t('hold.do') }}</button>
    </form>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <TagTrail v-if="session.may(project, 'audit')" :project="project" :tag="id" />
    <details v-if="card.uses.length">
      <summary>{{ $t('uses.title') }} ({{ card.uses.length }})</summary>
      <div v-for="u in card.uses" :key="u.kind + u.id + u.place" class="use">{{ u.name }}</div>
    </details>
  </div>
  <div v-else class="card quiet">{{ problem || '…' }}</div>
</template>

<style scoped>
.alarm {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 10px;
  margin: 3px 0;
  font-size: 14px;
}
.card {
  width: 400px;
  max-height: 560px;
  overflow: auto;
  padding: 12px 16px 16px;
  font-size: 15px;
  display: grid;
  gap: 8px;
}
.path {
  font-weight: 650;
  overflow-wrap: anywhere;
}
.what {
  color: var(--c-quiet);
  margin-top: -6px;
}
.now {
  display: flex;
  align-items: baseline;
  gap: 14px;
  padding: 8px 12px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-paper);
}
.now strong {
  font-size: 24px;
}
.now.bad {
  background-image: repeating-linear-gradient(-45deg, var(--c-line) 0 2px, transparent 2px 7px);
}
.now.uncertain {
  border-bottom-style: dotted;
  border-bottom-width: 3px;
}
.now.held {
  border-left-width: 6px;
  border-right-width: 6px;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 3px 14px;
  margin: 0;
}
dt {
  color: var(--c-quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.hold {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  align-items: end;
}
.hold .wide,
.hold > div {
  grid-column: 1 / -1;
}
.hold label {
  display: grid;
  font-size: 13px;
  color: var(--c-quiet);
}
.hold input {
  font-size: 16px;
  min-height: 40px;
  padding: 4px 8px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-paper);
  color: var(--c-ink);
}
.card button {
  min-height: 44px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 15px;
  cursor: pointer;
  padding: 0 14px;
}
.card button:disabled {
  opacity: 0.45;
}
summary {
  cursor: pointer;
  min-height: 32px;
}
.use {
  padding: 2px 0;
  font-size: 14px;
}
</style>
