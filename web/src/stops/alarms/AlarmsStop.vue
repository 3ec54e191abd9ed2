<script setup lang="ts">
import { mdiBellPlusOutline, mdiFileTableOutline, mdiTagMultipleOutline } from '@mdi/js'
import { computed, nextTick, ref, shallowRef, toRef, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import AlarmTab from '../../alarms/AlarmTab.vue'
import { PRIORITIES, useAlarms } from '../../alarms/useAlarms'
import { api, ask, type Schemas } from '../../api/client'
import { freshId, useProject } from '../../rail/project'
import AlarmPerformance from '../../alarms/AlarmPerformance.vue'
import AlarmInspector from './AlarmInspector.vue'
import AlarmSheet from './AlarmSheet.vue'
import FromTags from './FromTags.vue'
import WhatIf from './WhatIf.vue'
import FilterBox from '../../kit/FilterBox.vue'
import PathText from '../../kit/PathText.vue'

type Row = Schemas['AlarmRow']
const project = useProject()
const route = useRoute()
const router = useRouter()
const { t } = useI18n()
const told = shallowRef<Row[]>([])
const rows = computed(() => told.value.map((r) => project.latest('alarm', r.id, r, true)))
const text = ref('')
const priority = ref('')
const view = ref<'list' | 'review' | 'performance'>('list')
const review = computed(() => view.value === 'review')
const playing = ref(false)
const selected = ref(new Set<string>())
const list = useTemplateRef('list')
const making = ref(false)
const listing = ref(false)
const pasted = ref('')
const { board } = useAlarms(toRef(project, 'id'), () => 'draft', true)
const live = computed(() => new Map((board.value?.alarms ?? []).map((a) => [a.id, a])))
watch(
  () => project.versionOf('alarm', 'tag', 'type', 'equipment', 'site', 'paths'),
  async () => {
    told.value = await ask(
      api.GET('/api/projects/{project}/alarm-definitions', { params: { path: project.path } }),
    ).catch(() => told.value)
  },
  { immediate: true },
)
watch(
  () => route.params.id,
  (id) => id && (selected.value = new Set([id as string])),
  { immediate: true },
)
/** A link may ask what an alarm would have done, and for how many hours. */
const reach = computed(() => Number(route.query.play) || undefined)
watch(reach, (hours) => hours && (playing.value = true), { immediate: true })

const columns = [
  { key: 'path', title: 'alarms.signal' },
  { key: 'name', title: 'common.name' },
  { key: 'kind', title: 'alarms.kind' },
  { key: 'limit', title: 'alarms.limit' },
  { key: 'onDelay', title: 'alarms.delays' },
  { key: 'priority', title: 'alarm.column.priority' },
  { key: 'state', title: 'alarms.now' },
  { key: 'message', title: 'alarm.column.text' },
] as const
const order = ref<{ key: string; down: boolean }>({ key: '', down: false })
function sort(key: string) {
  order.value =
    order.value.key !== key
      ? { key, down: false }
      : order.value.down
        ? { key: '', down: false }
        : { key, down: true }
}
const rank = (r: Row): string | number => {
  const { key } = order.value
  if (key === 'priority') return PRIORITIES.indexOf(r.priority as 'low')
  if (key === 'state') return live.value.get(r.id)?.state === 'normal' ? 1 : 0
  const v = (r as unknown as Record<string, string | number>)[key] ?? ''
  return key === 'limit' || key === 'onDelay' ? Number(v) || 0 : String(v).toLowerCase()
}
const shown = computed(() => {
  const list = found.value
  if (!order.value.key) return list
  const way = order.value.down ? -1 : 1
  return [...list].sort((a, b) => (rank(a) < rank(b) ? -way : rank(a) > rank(b) ? way : 0))
})
const found = computed(() =>
  rows.value.filter(
    (r) =>
      (!priority.value || r.priority === priority.value) &&
      text.value
        .toLowerCase()
        .split(/\s+/)
        .every((w) =>
          `${r.path} ${r.name} ${r.kind} ${r.group ?? ''} ${r.class ?? ''} ${r.message ?? ''}`
            .toLowerCase()
            .includes(w),
        ),
  ),
)
const chosen = computed(() => rows.value.filter((r) => selected.value.has(r.id)))
const findings = computed(
  () => new Map(project.findings.filter((f) => f.stop === 'alarms').map((f) => [f.id, f])),
)
const shares = computed(() =>
  PRIORITIES.map((p) => ({ p, n: rows.value.filter((r) => r.priority === p).length })),
)
let last = ''
function pick(r: Row, e: MouseEvent | KeyboardEvent) {
  const next = e.ctrlKey || e.metaKey ? new Set(selected.value) : new Set<string>()
  if (e.shiftKey && last) {
    const [a, b] = [
      shown.value.findIndex((x) => x.id === last),
      shown.value.findIndex((x) => x.id === r.id),
    ].sort((x, y) => x - y) as [number, number]
    shown.value.slice(a, b + 1).forEach((x) => next.add(x.id))
  } else if (!next.delete(r.id)) next.add(r.id)
  if (!e.shiftKey) last = r.id
  selected.value = next
  if (next.size === 1)
    void router.replace({ name: 'alarms', params: { project: project.id, id: [...next][0]! } })
}
function keys(e: KeyboardEvent) {
  if ((e.target as HTMLElement).matches('input, select')) return
  const at = shown.value.findIndex((r) => selected.value.has(r.id))
  const to =
    e.key === 'ArrowDown' ? shown.value[at + 1] : e.key === 'ArrowUp' ? shown.value[at - 1] : undefined
  if (to) pick(to, { ...e, shiftKey: false, ctrlKey: false } as KeyboardEvent)
  else if (e.key === 'Delete') void remove()
  else if (e.key.toLowerCase() === 'a' && (e.ctrlKey || e.metaKey))
    selected.value = new Set(shown.value.map((r) => r.id))
  else return
  e.preventDefault()
}
async function add() {
  const id = freshId('alarm')
  const value = { name: t('alarms.newName'), kind: 'high', tag: '', priority: 'low', limit: '', message: '' }
  if (!(await project.edit(t('alarms.added', { n: 1 }), [{ kind: 'alarm', id, path: '', value }])))
    selected.value = new Set([id])
}
async function remove() {
  const ids = [...selected.value]
  if (
    ids.length &&
    !(await project.edit(
      t('alarms.removed', { n: ids.length }),
      ids.map((id) => ({ kind: 'alarm', id, path: '' })),
    ))
  )
    selected.value = new Set()
}
const take = (r: Row) =>
  project.edit(t('alarms.edited', { n: 1 }), [
    { kind: 'alarm', id: r.id, path: '/priority', value: r.suggested },
  ])
/** A list on the clipboard is pasted over the table, as it is over the tags. */
function paste(e: ClipboardEvent) {
  const text = e.clipboardData?.getData('text/plain') ?? ''
  if ((e.target as HTMLElement).matches('input, select, textarea') || !/^[^\n]*[,;\t]/.test(text)) return
  pasted.value = text
  listing.value = true
}
function mend(id: string) {
  view.value = 'list'
  selected.value = new Set([id])
  playing.value = true
  void nextTick(() => list.value?.querySelector('tr.on')?.scrollIntoView({ block: 'center' }))
}
const seconds = (r: Row) =>
  [r.onDelay && `↑${r.onDelay} s`, r.offDelay && `↓${r.offDelay} s`].filter(Boolean).join(' ')
function listed() {
  listing.value = false
  pasted.value = ''
}
</script>

<template>
  <div class="split">
    <section class="stop" @keydown="keys" @paste="paste">
      <div class="stop-head">
        <h1>{{ $t('stop.alarms') }}</h1>
        <span class="quiet">{{ $t('alarms.line', { n: shown.length, of: rows.length }) }}</span>
        <button
          v-for="s in shares"
          :key="s.p"
          class="bare share"
          :class="{ on: priority === s.p }"
          :aria-pressed="priority === s.p"
          @click="priority = priority === s.p ? '' : s.p">
          <AlarmTab
            :priority="s.p"
            state=""
            :text="`${s.n} · ${rows.length ? Math.round((100 * s.n) / rows.length) : 0} %`" />
        </button>
        <span class="grow" />
        <FilterBox v-if="view !== 'performance'" v-model="text" class="words" :label="$t('alarms.filter')" />
        <button
          v-for="v in ['review', 'performance'] as const"
          :key="v"
          class="chip"
          :class="{ on: view === v }"
          :aria-pressed="view === v"
          @click="view = view === v ? 'list' : v">
          {{ $t(v === 'review' ? 'alarms.rationalise' : 'performance.title') }}
        </button>
        <button
          class="chip"
          :class="{ on: playing }"
          :aria-pressed="playing"
          :disabled="chosen.length !== 1"
          @click="playing = !playing">
          {{ $t('whatIf.title') }}
        </button>
        <v-btn
          v-if="view !== 'performance'"
          variant="text"
          :prepend-icon="mdiFileTableOutline"
          @click="listing = !listing">
          {{ $t('alarmSheet.title') }}
        </v-btn>
        <v-btn
          v-if="view !== 'performance'"
          variant="text"
          :prepend-icon="mdiTagMultipleOutline"
          @click="making = !making">
          {{ $t('alarms.fromTags') }}
        </v-btn>
        <v-btn v-if="view !== 'performance'" color="primary" :prepend-icon="mdiBellPlusOutline" @click="add">
          {{ $t('alarms.add') }}
        </v-btn>
      </div>
      <AlarmSheet v-if="listing" :pasted="pasted" @done="listed" />
      <FromTags v-if="making" @done="making = false" />
      <AlarmPerformance
        v-if="view === 'performance'"
        class="scroll"
        :project="project.id"
        :areas="project.overview?.site.areas ?? []"
        mends
        @mend="mend" />
      <div v-else ref="list" class="scroll" tabindex="0">
        <table class="grid" :class="{ review }">
          <thead v-if="review">
            <tr>
              <th>{{ $t('alarm.column.name') }}</th>
              <th>{{ $t('alarm.column.priority') }}</th>
              <th>{{ $t('alarm.guidance.cause') }}</th>
              <th>{{ $t('alarm.guidance.consequence') }}</th>
              <th>{{ $t('alarm.guidance.action') }}</th>
              <th>{{ $t('alarms.severity') }}</th>
              <th>{{ $t('alarm.guidance.respond') }}</th>
              <th>{{ $t('alarms.reviewed') }}</th>
            </tr>
          </thead>
          <thead v-else>
            <tr>
              <th
                v-for="c in columns"
                :key="c.key"
                :aria-sort="order.key === c.key ? (order.down ? 'descending' : 'ascending') : undefined">
                <button class="bare" @click="sort(c.key)">
                  {{ $t(c.title) }}{{ order.key === c.key ? (order.down ? ' ▾' : ' ▴') : '' }}
                </button>
              </th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="r in shown"
              :key="r.id"
              :class="{ on: selected.has(r.id) }"
              :aria-selected="selected.has(r.id)"
              @click="pick(r, $event)">
              <template v-if="review">
                <td>
                  <PathText class="mono" :path="r.path" />
                  · {{ r.name }}
                </td>
                <td>
                  <AlarmTab :priority="r.priority" state="" />
                  <button
                    v-if="r.suggested && r.suggested !== r.priority"
                    class="chip"
                    :title="$t('alarms.suggested', { priority: $t($word('alarm.priority', r.suggested)) })"
                    @click.stop="take(r)">
                    → {{ $t($word('alarm.priority', r.suggested)) }}
                  </button>
                </td>
                <td class="words">{{ r.guidance?.cause }}</td>
                <td class="words">{{ r.guidance?.consequence }}</td>
                <td class="words">{{ r.guidance?.action }}</td>
                <td>{{ r.guidance?.severity ? $t($word('alarms.severities', r.guidance.severity)) : '' }}</td>
                <td class="mono">
                  {{ r.guidance?.respond ? $t('alarm.minutes', { n: r.guidance.respond }) : '' }}
                </td>
                <td>{{ r.reviewed ? '✓' : '' }}</td>
              </template>
              <template v-else>
                <td class="mono"><PathText :path="r.path" /></td>
                <td>
                  <span
                    v-if="findings.has(r.id)"
                    class="dot"
                    :class="findings.get(r.id)!.severity"
                    :title="findings.get(r.id)!.says" />
                  {{ r.name }}
                </td>
                <td>{{ $t($word('alarms.kinds', r.kind)) }}</td>
                <td class="mono">
                  {{ r.limit }}
                  <span v-if="r.limit && r.unit" class="quiet">{{ r.unit }}</span>
                </td>
                <td class="mono">{{ seconds(r) }}</td>
                <td><AlarmTab :priority="r.priority" state="" /></td>
                <td>
                  <AlarmTab
                    v-if="live.get(r.id) && live.get(r.id)!.state !== 'normal'"
                    :priority="r.priority"
                    :state="live.get(r.id)!.state"
                    :text="$t($word('alarm.state', live.get(r.id)!.state))" />
                  <span v-else-if="live.get(r.id)?.bad" class="quiet">{{ $t('alarm.bad') }}</span>
                </td>
                <td class="quiet">{{ r.message }}</td>
              </template>
            </tr>
          </tbody>
        </table>
        <div v-if="!rows.length" class="empty">
          <h2>{{ $t('alarms.empty') }}</h2>
          <p>{{ $t('alarms.emptyWhy') }}</p>
        </div>
      </div>
      <WhatIf
        v-if="playing && chosen.length === 1 && view !== 'performance'"
        :row="chosen[0]!"
        :reach="reach"
        @close="playing = false" />
    </section>
    <AlarmInspector
      v-if="chosen.length && view !== 'performance'"
      :rows="chosen"
      :now="chosen.length === 1 ? live.get(chosen[0]!.id) : undefined"
      @remove="remove" />
  </div>
</template>

<style scoped>
.words {
  width: 200px;
}
.split {
  display: flex;
  height: 100%;
}
.stop {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  background: var(--c-sheet);
}
.scroll {
  flex: 1;
  overflow: auto;
  outline: none;
}
.share.on {
  outline: 2px solid var(--c-spruce);
  outline-offset: 2px;
}
.chip.on {
  background: var(--c-tint);
  border-color: var(--c-spruce);
}
.grid tbody tr {
  cursor: pointer;
}
.grid :deep(.tab) {
  font-size: 12px;
  padding-top: 1px;
  padding-bottom: 1px;
}
.review td {
  height: auto;
  min-height: 32px;
  padding: 5px 10px;
  vertical-align: top;
}
.review td:first-child {
  white-space: normal;
}
.words {
  white-space: normal !important;
  max-width: 220px;
}
.dot {
  display: inline-block;
  width: 8px;
  height: 8px;
  border-radius: 50%;
  margin-right: 6px;
  background: var(--c-warning);
}
.dot.error {
  background: var(--c-error);
  border-radius: 0;
}
.dot.note {
  background: none;
  border: 1.5px solid var(--c-quiet);
}
.empty {
  text-align: center;
  margin-top: 80px;
  color: var(--c-quiet);
}
</style>
