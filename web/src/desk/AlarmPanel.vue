<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { computed, ref, shallowRef, watch } from 'vue'
import AuditTrail from '../audit/AuditTrail.vue'
import AlarmPerformance from '../alarms/AlarmPerformance.vue'
import AlarmCard from './AlarmCard.vue'
import AlarmTab from '../alarms/AlarmTab.vue'
import JournalList from '../alarms/JournalList.vue'
import { type Act, annunciated, type Board, PRIORITIES, type Standing, unseen } from '../alarms/useAlarms'
import { clock, dayAndTime, moment } from '../kit/moment'
import { useInView } from '../kit/useInView'
import { usePage } from '../alarms/usePage'
import PathText from '../kit/PathText.vue'
import type { WordOf } from '../i18n/word'

/** The alarms that stand, those set aside, and the journal; everything that can be done to them. */
const props = defineProps<{
  board: Board | undefined
  project: string
  sites: { id: string; name: string }[]
  mayClose?: boolean
  mayTrail?: boolean
  unsure: boolean
  problem: string
}>()
const emit = defineEmits<{
  close: []
  act: [ids: string[], act: Act, comment: boolean]
  open: [alarm: Standing]
}>()
const tab = ref<'active' | 'aside' | 'journal' | 'performance' | 'trail'>('active')
const tabs = computed(() =>
  (['active', 'aside', 'journal', 'performance', 'trail'] as const).filter(
    (x) => x !== 'trail' || props.mayTrail,
  ),
)
const text = ref('')
const priority = ref('')
const area = ref('')
const state = ref('')
const group = ref('')
const states = computed<WordOf<'alarm.state'>[]>(() =>
  tab.value === 'aside'
    ? ['shelved', 'suppressed', 'out-of-service']
    : ['unacknowledged', 'acknowledged', 'returned', 'latched-unack', 'latched-ack'],
)
const groups = computed(() =>
  [...new Set((props.board?.alarms ?? []).map((a) => a.group).filter(Boolean))].sort(),
)
const order = ref<'priority' | 'time'>('priority')
const selected = ref(new Set<string>())
const detail = ref('')

const areas = computed(() =>
  [...new Map((props.board?.alarms ?? []).map((a) => [a.area, a.areaName])).entries()].filter(([id]) => id),
)
const wanted = computed(() =>
  (props.board?.alarms ?? [])
    .filter((a) => (tab.value === 'aside' ? !annunciated(a) && a.state !== 'normal' : annunciated(a)))
    .filter(
      (a) =>
        (!priority.value || a.priority === priority.value) &&
        (!area.value || a.area === area.value) &&
        (!state.value || a.state === state.value) &&
        (!group.value || a.group === group.value),
    )
    .filter((a) =>
      `${a.path} ${a.name} ${a.text} ${a.group}`.toLowerCase().includes(text.value.trim().toLowerCase()),
    ),
)
/**
 * The rows as they stand on the page. A new one takes its place by priority and
 * time; while a finger or the pointer rests on the list, new ones wait at its
 * end, so that no row moves away from under it.
 */
const resting = ref(false)
const rows = shallowRef<Standing[]>([])
watch(
  [wanted, order, resting],
  ([list, how, rest]) => {
    const sorted =
      how === 'priority'
        ? list
        : [...list].sort((a, b) => (b.raised ?? b.since).localeCompare(a.raised ?? a.since))
    if (!rest) rows.value = sorted
    else {
      const now = new Map(sorted.map((a) => [a.id, a]))
      const kept = rows.value.flatMap((a) => now.get(a.id) ?? [])
      rows.value = [...kept, ...sorted.filter((a) => !rows.value.some((r) => r.id === a.id))]
    }
  },
  { immediate: true },
)
const { page, left, more } = usePage(rows)
const scroller = ref<HTMLElement>()
const inView = useInView(scroller, page)
/** What is acknowledged at once: what can be seen, and nothing that is scrolled out. */
const ackable = computed(() => page.value.filter((a) => unseen(a) && inView.value.has(a.id)))
const chosen = computed(() => rows.value.filter((a) => selected.value.has(a.id)))
const current = computed(() => rows.value.find((a) => a.id === detail.value))

function pick(a: Standing) {
  const next = new Set(selected.value)
  if (!next.delete(a.id)) next.add(a.id)
  selected.value = next
}
function act(what: Act, list: Standing[], comment = false) {
  const ids = list.map((a) => a.id)
  emit('act', ids, what, comment)
}
function keys(e: KeyboardEvent) {
  const at = rows.value.findIndex((a) => a.id === detail.value)
  const to = e.key === 'ArrowDown' ? at + 1 : e.key === 'ArrowUp' ? at - 1 : -2
  if (to === -2) {
    if (e.key === ' ' && current.value) pick(current.value)
    else if (e.key === 'Enter' && current.value && unseen(current.value) && props.board?.mayAck)
      act('acknowledged', [current.value])
    else return
  } else if (rows.value[to]) detail.value = rows.value[to].id
  e.preventDefault()
  e.stopPropagation()
}
const first = (a: Standing) => !!a.group && props.board?.first[a.group] === a.id
/** On a narrow panel the filters fold behind one button, which says how many are in use. */
const filtering = ref(false)
const narrowed = computed(
  () => [text.value.trim(), priority.value, area.value, state.value, group.value].filter(Boolean).length,
)
function turn(to: typeof tab.value) {
  tab.value = to
  state.value = ''
  selected.value = new Set()
}
</script>

<template>
  <section class="panel" role="dialog" :aria-label="$t('alarm.list')">
    <div class="top">
      <button
        v-for="x in tabs"
        :key="x"
        class="tap tabb"
        :class="{ on: tab === x }"
        :aria-pressed="tab === x"
        @click="turn(x)">
        {{ $t($word('alarm.tab', x)) }}
      </button>
      <button
        v-if="tab === 'active' || tab === 'aside'"
        class="tap tabb fold"
        :class="{ on: filtering || narrowed }"
        :aria-expanded="filtering"
        @click="filtering = !filtering">
        {{ $t('alarm.narrow') }}
        <template v-if="narrowed">· {{ narrowed }}</template>
      </button>
      <span class="grow" />
      <button class="tap" :aria-label="$t('notice.close')" @click="emit('close')">
        <v-icon :icon="mdiClose" />
      </button>
      <div v-if="tab === 'active' || tab === 'aside'" class="filters" :class="{ open: filtering }">
        <input v-model="text" class="plain" :placeholder="$t('alarm.find')" :aria-label="$t('alarm.find')" />
        <select v-model="priority" class="plain" :aria-label="$t('alarm.column.priority')">
          <option value="">{{ $t('alarm.all') }}</option>
          <option v-for="p in PRIORITIES" :key="p" :value="p">{{ $t($word('alarm.priority', p)) }}</option>
        </select>
        <select v-model="area" class="plain" :aria-label="$t('alarm.column.area')">
          <option value="">{{ $t('alarm.allAreas') }}</option>
          <option v-for="[id, name] in areas" :key="id" :value="id">{{ name }}</option>
        </select>
        <select v-model="state" class="plain" :aria-label="$t('alarms.now')">
          <option value="">{{ $t('alarm.allStates') }}</option>
          <option v-for="s in states" :key="s" :value="s">{{ $t($word('alarm.state', s)) }}</option>
        </select>
        <select v-if="groups.length > 1" v-model="group" class="plain" :aria-label="$t('alarms.group')">
          <option value="">{{ $t('alarm.allGroups') }}</option>
          <option v-for="g in groups" :key="g" :value="g">{{ g }}</option>
        </select>
        <select v-model="order" class="plain" :aria-label="$t('alarm.order')">
          <option value="priority">{{ $t('alarm.byPriority') }}</option>
          <option value="time">{{ $t('alarm.byTime') }}</option>
        </select>
      </div>
    </div>
    <JournalList v-if="tab === 'journal'" :project="project" :may-close="mayClose" class="fill" />
    <AuditTrail v-else-if="tab === 'trail'" :project="project" :areas="sites" class="fill" />
    <AlarmPerformance v-else-if="tab === 'performance'" :project="project" :areas="sites" class="fill" />
    <div v-if="unsure && (tab === 'active' || tab === 'aside')" class="unread" role="alert">
      {{ problem || $t('alarm.unsure') }}
    </div>
    <div v-if="tab === 'active' || tab === 'aside'" class="body">
      <div
        ref="scroller"
        class="scroll"
        :class="{ unsure }"
        tabindex="0"
        role="grid"
        :aria-label="$t($word('alarm.tab', tab))"
        @keydown="keys"
        @pointerenter="resting = true"
        @pointerleave="resting = false">
        <div
          v-for="a in page"
          :key="a.id"
          role="row"
          :data-id="a.id"
          :aria-selected="selected.has(a.id)"
          class="row"
          :class="{ on: a.id === detail, picked: selected.has(a.id) }"
          @click="detail = a.id">
          <label class="tick" @click.stop>
            <input
              type="checkbox"
              :checked="selected.has(a.id)"
              :aria-label="`${a.path} ${a.name}`"
              @change="pick(a)" />
          </label>
          <span role="gridcell" class="tabcell"><AlarmTab :priority="a.priority" :state="a.state" /></span>
          <span role="gridcell" class="what">
            <strong><PathText :path="`${a.path} · ${a.name}`" /></strong>
            <span>{{ a.text }}</span>
            <span v-if="tab === 'aside' && a.reason" class="aside">{{ a.by }}: {{ a.reason }}</span>
          </span>
          <span role="gridcell" class="state">
            {{ $t($word('alarm.state', a.state)) }}
            <span v-if="first(a)" class="chip">{{ $t('alarm.first') }}</span>
            <span v-if="a.bad" class="veil">{{ $t('alarm.bad') }}</span>
            <span v-if="a.points" class="chip">{{ $t('alarm.points', { n: a.points }) }}</span>
          </span>
          <span role="gridcell" class="mono when">
            {{ moment(a.raised ?? a.since, clock) }}
            <small>
              {{ a.until ? $t('alarm.until', { time: moment(a.until, dayAndTime) }) : a.areaName }}
            </small>
          </span>
        </div>
        <button v-if="left" class="rest" @click="more">{{ $t('alarm.more', { n: left }) }}</button>
        <p v-if="!rows.length" class="empty">
          {{ $t(tab === 'active' ? 'alarm.noneActive' : 'alarm.noneAside') }}
        </p>
      </div>
      <AlarmCard
        v-if="current"
        :key="current.id"
        :alarm="current"
        :board="board"
        :project="project"
        @act="(what, comment) => act(what, [current!], comment)"
        @open="emit('open', current!)"
        @back="detail = ''" />
    </div>
    <div v-if="tab === 'active' && rows.length" class="foot">
      <button
        class="tap"
        @click="selected = new Set(chosen.length === page.length ? [] : page.map((a) => a.id))">
        {{ $t(chosen.length === page.length ? 'alarm.pickNone' : 'alarm.pickAll') }}
      </button>
      <template v-if="chosen.length">
        <button v-if="board?.mayAck" class="tap" @click="act('acknowledged', chosen)">
          {{ $t('alarm.ackMany', { n: chosen.length }) }}
        </button>
        <button v-if="board?.mayShelve" class="tap" @click="act('shelved', chosen)">
          {{ $t('alarm.act.shelved') }}
        </button>
      </template>
      <button v-else-if="board?.mayAck && ackable.length" class="tap" @click="act('acknowledged', ackable)">
        {{ $t('alarm.ackVisible', { n: ackable.length }) }}
      </button>
    </div>
  </section>
</template>

<style scoped>
.unsure {
  opacity: 0.4;
  filter: grayscale(1);
  background-image: repeating-linear-gradient(-45deg, var(--c-line) 0 2px, transparent 2px 9px);
}
.unread {
  padding: 8px 16px;
  font-weight: 650;
  background: var(--c-sheet);
  border-bottom: 1px solid var(--c-line);
}
.panel {
  position: absolute;
  inset: 0;
  z-index: 14;
  background: var(--c-paper);
  display: flex;
  flex-direction: column;
  font-size: 16px;
}
.top,
.foot {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 8px 12px;
  border-bottom: 1px solid var(--c-line);
}
.foot {
  border: 0;
  border-top: 1px solid var(--c-line);
}
.top .plain {
  min-height: 44px;
  min-width: 0;
  flex: 1 1 120px;
}
.top {
  flex-wrap: wrap;
}
.filters {
  display: flex;
  gap: 8px;
  flex: 9 1 400px;
  min-width: 0;
  order: -1;
}
.top .fold {
  display: none;
}
.tabb {
  order: -2;
  flex: none;
  white-space: nowrap;
}
.tabb.on {
  border-color: var(--c-spruce);
  background: var(--c-tint);
}
.grow {
  flex: 1;
}
.body {
  flex: 1;
  min-height: 0;
  display: flex;
}
.fill {
  flex: 1;
  min-height: 0;
}
.scroll {
  flex: 1;
  overflow: auto;
  outline: none;
}
.scroll:focus-visible {
  box-shadow: inset 0 0 0 2px var(--c-spruce);
}
.row {
  display: grid;
  grid-template-columns: 44px 118px 1fr 150px 110px;
  align-items: center;
  gap: 10px;
  min-height: 56px;
  padding: 0 12px;
  border-bottom: 1px solid var(--c-line);
  cursor: pointer;
}
.row.on {
  background: var(--c-tint);
}
.row.picked {
  box-shadow: inset 4px 0 var(--c-spruce);
}
.tick {
  display: grid;
  place-items: center;
  width: 44px;
  height: 44px;
  cursor: pointer;
}
.row input {
  width: 22px;
  height: 22px;
  accent-color: var(--c-spruce);
}
.what {
  display: flex;
  flex-direction: column;
  min-width: 0;
}
.what > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.what span {
  font-size: 15px;
}
.what .aside {
  white-space: normal;
  color: var(--c-quiet);
}
.state {
  font-size: 14px;
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  gap: 2px;
}
.veil {
  background-image: repeating-linear-gradient(-45deg, var(--c-line) 0 2px, transparent 2px 7px);
  padding: 0 4px;
  font-size: 13px;
}
.when {
  display: flex;
  flex-direction: column;
  align-items: flex-end;
}
.when small {
  font-family: var(--sans);
  color: var(--c-quiet);
  font-size: 13px;
}
.rest {
  width: 100%;
  min-height: 44px;
  border: 0;
  background: none;
  color: var(--c-spruce);
  font-size: 16px;
  cursor: pointer;
}
/* Beside the tabs the filters would lose their words. */
@media (max-width: 1500px) {
  .filters {
    order: 1;
    flex: 1 1 100%;
  }
}
@media (max-width: 1100px) {
  .top .fold {
    display: inline-flex;
  }
  .filters {
    display: none;
    flex-wrap: wrap;
  }
  .filters.open {
    display: flex;
  }
  .row {
    grid-template-columns: 44px 1fr 96px;
    grid-template-areas: 'tick tab when' 'tick what when' 'tick state when';
    row-gap: 2px;
    padding: 6px 8px;
  }
  .tick {
    grid-area: tick;
  }
  .tabcell {
    grid-area: tab;
  }
  .what {
    grid-area: what;
  }
  .what span {
    white-space: normal;
  }
  .state {
    grid-area: state;
    flex-direction: row;
    flex-wrap: wrap;
    gap: 8px;
  }
  .when {
    grid-area: when;
  }
  .body {
    position: relative;
  }
}
/* There the card takes the list's place. */
@media (max-width: 1100px) and (max-height: 600px) {
  .body:has(aside) .scroll {
    visibility: hidden;
  }
}
@media (max-width: 720px) {
  .tabb {
    padding: 0 8px;
    font-size: 15px;
  }
  .top,
  .foot {
    gap: 4px;
    padding: 6px;
  }
}
.empty {
  text-align: center;
  color: var(--c-quiet);
  margin-top: 60px;
}
</style>
