<script setup lang="ts">
import { computed, ref, toRef, watch } from 'vue'
import { sentence } from '../api/client'
import { clock, dayAndTime, moment } from '../kit/moment'
import AlarmTab from './AlarmTab.vue'
import { useInView } from '../kit/useInView'
import { usePage } from './usePage'
import { type Act, annunciated, PRIORITIES, type Standing, unseen, useAlarms } from './useAlarms'

/** A list of alarms as an element of a screen: its columns, order, filter and buttons are the element's. */
const props = defineProps<{
  project: string
  program: 'release' | 'try' | 'draft'
  language: string
  list: string
  columns: string
  order: string
  worst: string
  area: string
  group: string
  contains: string
  stamp: string
  buttons: boolean
}>()
const {
  board,
  unsure,
  problem: unread,
  act,
} = useAlarms(
  toRef(props, 'project'),
  () => props.program,
  props.list === 'all',
  () => props.language,
)
const selected = ref(new Set<string>())
const problem = ref('')
const shown = computed(() =>
  props.columns
    .split(',')
    .map((c) => c.trim())
    .filter(Boolean),
)
// The rows are grids of the same columns: nothing is measured to lay them out,
// and those out of sight are neither laid out nor painted.
const widths: Record<string, string> = {
  tab: '112px',
  state: '128px',
  value: '88px',
  limit: '88px',
  text: 'minmax(0, 2fr)',
  area: 'minmax(0, 0.7fr)',
  group: 'minmax(0, 0.7fr)',
}
const grid = computed(() =>
  shown.value
    .map((c) =>
      c === 'time' ? (props.stamp === 'both' ? '150px' : '92px') : (widths[c] ?? 'minmax(0, 1fr)'),
    )
    .join(' '),
)
const rows = computed(() => {
  const most = PRIORITIES.indexOf(props.worst as 'low')
  const kept = (board.value?.alarms ?? []).filter(
    (a) =>
      (props.list === 'all' ||
        (props.list === 'aside' ? !annunciated(a) && a.state !== 'normal' : annunciated(a))) &&
      (most < 0 || PRIORITIES.indexOf(a.priority as 'low') <= most) &&
      (!props.area || a.area === props.area) &&
      (!props.group || a.group === props.group) &&
      `${a.path} ${a.name} ${a.text}`.toLowerCase().includes(props.contains.toLowerCase()),
  )
  const at = (a: Standing) => a.raised ?? a.since
  if (props.order === 'newest') kept.sort((a, b) => at(b).localeCompare(at(a)))
  else if (props.order === 'oldest') kept.sort((a, b) => at(a).localeCompare(at(b)))
  return kept
})
const { page, left, more } = usePage(rows)
const scroller = ref<HTMLElement>()
const inView = useInView(scroller, page)
watch(
  rows,
  (list) => (selected.value = new Set(list.filter((a) => selected.value.has(a.id)).map((a) => a.id))),
)
const how = computed(() =>
  props.stamp === 'date'
    ? ({ day: 'numeric', month: 'short' } as const)
    : props.stamp === 'both'
      ? dayAndTime
      : clock,
)
function cell(a: Standing, column: string, state: (s: Standing['state']) => string): string {
  switch (column) {
    case 'state':
      return state(a.state)
    case 'time':
      return moment(a.raised ?? a.since, how.value)
    case 'area':
      return a.areaName
    case 'name':
    case 'text':
    case 'group':
    case 'value':
    case 'limit':
      return a[column] ?? ''
  }
  return ''
}
const chosen = computed(() =>
  selected.value.size
    ? rows.value.filter((a) => selected.value.has(a.id))
    : page.value.filter((a) => inView.value.has(a.id)),
)
function pick(id: string) {
  const next = new Set(selected.value)
  if (!next.delete(id)) next.add(id)
  selected.value = next
}
async function send(ids: string[], what: Act) {
  if (!ids.length) return
  try {
    const did = await act(ids, what)
    problem.value = ''
    if (did) selected.value = new Set()
  } catch (e) {
    problem.value = sentence(e)
  }
}
</script>

<template>
  <div class="list" :class="{ unsure }">
    <div v-if="unsure" class="unread" role="status">{{ unread || $t('alarm.unsure') }}</div>
    <div ref="scroller" class="scroll">
      <table role="table" :style="{ '--columns': grid }">
        <tbody role="rowgroup">
          <tr
            v-for="a in page"
            :key="a.id"
            v-memo="[a, selected.has(a.id), columns, stamp, $i18n.locale]"
            :data-id="a.id"
            :aria-selected="selected.has(a.id)"
            :class="{ on: selected.has(a.id), unseen: unseen(a) }"
            role="row"
            tabindex="0"
            @click="pick(a.id)"
            @keydown.space.prevent="pick(a.id)">
            <td v-for="c in shown" :key="c" role="cell" :class="c">
              <AlarmTab v-if="c === 'tab'" :priority="a.priority" :state="a.state" />
              <bdi v-else-if="c === 'path'">{{ a.path }}</bdi>
              <template v-else>{{ cell(a, c, (s) => $t($word('alarm.state', s))) }}</template>
            </td>
          </tr>
        </tbody>
      </table>
      <button v-if="left" class="rest" @click="more">{{ $t('alarm.more', { n: left }) }}</button>
      <p v-if="!rows.length">{{ $t(list === 'aside' ? 'alarm.noneAside' : 'alarm.noneActive') }}</p>
    </div>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <div v-if="buttons && (board?.mayAck || board?.mayShelve)" class="acts">
      <button
        v-if="board.mayAck"
        :disabled="!chosen.some(unseen) || unsure"
        @click="
          send(
            chosen.filter(unseen).map((a) => a.id),
            'acknowledged',
          )
        ">
        {{ $t(selected.size ? 'alarm.ackMany' : 'alarm.ackVisible', { n: chosen.filter(unseen).length }) }}
      </button>
      <button
        v-if="board.mayShelve && list !== 'aside'"
        :disabled="!selected.size"
        @click="send([...selected], 'shelved')">
        {{ $t('alarm.act.shelved') }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.unsure .scroll {
  opacity: 0.4;
  filter: grayscale(1);
  background-image: repeating-linear-gradient(-45deg, var(--c-line) 0 2px, transparent 2px 9px);
}
.unread {
  padding: 6px 10px;
  font-weight: 650;
}
.list {
  height: 100%;
  display: flex;
  flex-direction: column;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
  border-radius: 4px;
  box-sizing: border-box;
  font-size: 15px;
  color: var(--c-ink);
  position: relative;
  overflow: hidden;
}
.scroll {
  flex: 1;
  overflow: auto;
}
table,
tbody {
  display: block;
  width: 100%;
}
tr {
  display: grid;
  grid-template-columns: var(--columns);
  align-items: center;
  min-height: 40px;
  border-bottom: 1px solid var(--c-line);
  cursor: pointer;
  content-visibility: auto;
  contain-intrinsic-size: auto 41px;
}
tr.on {
  box-shadow: inset 4px 0 var(--c-spruce);
  background: var(--c-tint);
}
tr.unseen {
  font-weight: 600;
}
td {
  display: block;
  padding: 3px 8px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
td.text {
  white-space: normal;
}
td.time,
td.value,
td.limit,
td.path {
  font-family: var(--mono);
}
/* Cut in front: a path's end is what tells it from another. */
td.path {
  direction: rtl;
  text-align: left;
}
td.time {
  text-align: right;
}
p {
  text-align: center;
  color: var(--c-quiet);
}
.rest {
  width: 100%;
  border: 0;
  color: var(--c-spruce);
}
.acts {
  display: flex;
  gap: 8px;
  padding: 6px;
  border-top: 1px solid var(--c-line);
}
button {
  min-height: 44px;
  padding: 0 14px;
  border: 1.5px solid var(--c-line);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 15px;
  font-weight: 600;
  cursor: pointer;
}
button:disabled {
  opacity: 0.45;
}
</style>
