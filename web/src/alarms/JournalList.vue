<script setup lang="ts">
import { computed, onUnmounted, ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '../api/client'
import { dayAndTime, moment, toSecond } from '../kit/moment'
import TimeRange from '../kit/TimeRange.vue'
import { boundsOf, type Range } from '../kit/timeRange'
import { live } from '../live/live'
import { whatLedTo } from '../replay/where'
import AlarmTab from './AlarmTab.vue'
import ArchiveBox from '../audit/ArchiveBox.vue'
import OccurrenceList from './OccurrenceList.vue'
import { PRIORITIES } from './useAlarms'

/** The lasting record of alarms and of what happened beside them, newest first. */
const props = defineProps<{ project: string; alarm?: string; mayClose?: boolean }>()
const entries = shallowRef<Schemas['JournalEntry'][]>([])
const next = ref(0)
const text = ref('')
const kind = ref('')
const priority = ref('')
const range = ref<Range>({ hours: 24, from: '', to: '' })
const moments = computed(() => boundsOf(range.value, Date.now()))
const problem = ref('')
const open = ref(0)
const comments = shallowRef<Schemas['Comment'][]>([])
const comment = ref('')
const archives = ref(false)
/** A line for each time that an alarm came, in place of each thing that happened. */
const byOccurrence = ref(false)
const kinds = ['alarm', 'event', 'note', 'action', 'person', 'link', 'trouble', 'system'] as const

const query = () => ({
  text: text.value.trim() || undefined,
  kind: kind.value ? [kind.value] : undefined,
  priority: priority.value ? [PRIORITIES.indexOf(priority.value as 'low')] : undefined,
  alarm: props.alarm,
  ...moments.value,
})
// The beginning stays where it is while the list is open, so that it is asked
// anew for what is chosen alone.
const occurrencesOf = computed(() => {
  const { text, priority, alarm, from, to } = query()
  return { text, priority, alarm, from, to }
})
const exported = (format: string) =>
  '/api/projects/' +
  props.project +
  '/journal/export?' +
  new URLSearchParams(
    Object.entries({ ...query(), format }).flatMap(([k, v]) => (v === undefined ? [] : [[k, String(v)]])),
  )
let asked = 0
async function load(further = false) {
  const mine = ++asked
  let found = further ? entries.value : []
  const enough = found.length + 50
  let before = further ? next.value : undefined
  try {
    // A search through millions comes in portions: what is found shows at once.
    do {
      const page = await ask(
        api.GET('/api/projects/{project}/journal', {
          params: { path: { project: props.project }, query: { ...query(), before, limit: 200 } },
        }),
      )
      if (mine !== asked) return
      found = [...found, ...page.entries]
      entries.value = found
      before = next.value = page.next
    } while (before && found.length < enough)
    problem.value = ''
  } catch (e) {
    problem.value = sentence(e)
  }
}
watch([text, kind, priority, range, () => props.alarm], () => load(), { immediate: true })
const end = live.news(
  props.project,
  (n) => n.things?.some((x) => x.startsWith('alarms/')) && entries.value.length <= 200 && void load(),
)
onUnmounted(end)

async function show(seq: number) {
  open.value = open.value === seq ? 0 : seq
  if (open.value)
    comments.value = await ask(
      api.GET('/api/projects/{project}/journal/{id}/comments', {
        params: { path: { project: props.project, id: String(seq) } },
      }),
    ).catch(() => [])
}
async function say(seq: number) {
  try {
    await ask(
      api.POST('/api/projects/{project}/journal/{id}/comments', {
        params: { path: { project: props.project, id: String(seq) } },
        body: { text: comment.value },
      }),
    )
    comment.value = ''
    open.value = 0
    await show(seq)
    await load()
  } catch (e) {
    problem.value = sentence(e)
  }
}
</script>

<template>
  <div class="journal">
    <div class="filters">
      <input v-model="text" class="plain" :placeholder="$t('alarm.find')" :aria-label="$t('alarm.find')" />
      <select v-model="kind" class="plain" :aria-label="$t('alarm.kindOf')">
        <option value="">{{ $t('alarm.everything') }}</option>
        <option v-for="k in kinds" :key="k" :value="k">{{ $t($word('alarm.entry', k)) }}</option>
      </select>
      <select v-model="priority" class="plain" :aria-label="$t('alarm.column.priority')">
        <option value="">{{ $t('alarm.all') }}</option>
        <option v-for="p in PRIORITIES" :key="p" :value="p">{{ $t($word('alarm.priority', p)) }}</option>
      </select>
      <TimeRange v-model="range" />
      <a v-for="f in ['csv', 'xlsx'] as const" :key="f" class="plain link" :href="exported(f)" download>
        {{ f.toUpperCase() }}
      </a>
      <button
        class="plain link"
        :aria-pressed="byOccurrence"
        :class="{ on: byOccurrence }"
        @click="byOccurrence = !byOccurrence">
        {{ $t('occurrence.each') }}
      </button>
      <button v-if="mayClose" class="plain link" :aria-expanded="archives" @click="archives = !archives">
        {{ $t('archive.title') }}
      </button>
    </div>
    <ArchiveBox
      v-if="archives"
      :project="project"
      of="journal"
      :why="$t('archive.why')"
      :go="$t('archive.close')"
      @closed="load()" />
    <div v-if="problem" class="problem">{{ problem }}</div>
    <OccurrenceList v-if="byOccurrence" :project="project" :query="occurrencesOf" />
    <div v-else class="lines">
      <table class="grid">
        <thead>
          <tr>
            <th>{{ $t('audit.time') }}</th>
            <th>{{ $t('alarm.column.priority') }}</th>
            <th>{{ $t('alarm.column.what') }}</th>
            <th>{{ $t('alarm.column.name') }}</th>
            <th>{{ $t('alarm.column.text') }}</th>
            <th>{{ $t('audit.who') }}</th>
          </tr>
        </thead>
        <tbody>
          <template v-for="e in entries" :key="e.seq">
            <tr class="entry" tabindex="0" @click="show(e.seq)" @keydown.enter="show(e.seq)">
              <td class="mono">
                <a class="when" :href="whatLedTo(project, e.at)" :title="$t('trend.before')" @click.stop>
                  {{ moment(e.at, toSecond) }}
                </a>
              </td>
              <td>
                <AlarmTab v-if="e.priority >= 0" :priority="PRIORITIES[e.priority]!" :state="e.state" />
              </td>
              <td>{{ $t('alarm.what.' + e.what, $t('what.' + e.what, e.what)) }}</td>
              <td class="mono">{{ e.name }}</td>
              <td class="wrap">
                {{ e.text }}
                <span v-if="e.reason" class="quiet">· {{ e.reason }}</span>
                <span v-if="e.comments" class="chip">{{ $t('alarm.comments', { n: e.comments }) }}</span>
              </td>
              <td>
                {{ e.person }}
                <span v-if="e.panel" class="quiet">· {{ e.panel }}</span>
              </td>
            </tr>
            <tr v-if="open === e.seq">
              <td colspan="6" class="said">
                <p v-for="(c, i) in comments" :key="i">
                  <strong>{{ c.person }}</strong>
                  {{ moment(c.at / 1e6, dayAndTime) }}: {{ c.text }}
                </p>
                <form @submit.prevent="comment.trim() && say(e.seq)">
                  <input
                    v-model="comment"
                    class="plain"
                    :placeholder="$t('alarm.comment')"
                    :aria-label="$t('alarm.comment')" />
                  <button class="chip" type="submit">{{ $t('alarm.say') }}</button>
                </form>
              </td>
            </tr>
          </template>
        </tbody>
      </table>
      <button v-if="next" class="bare more" @click="load(true)">{{ $t('alarm.older') }}</button>
      <p v-if="!entries.length" class="empty">{{ $t('alarm.noEntries') }}</p>
    </div>
  </div>
</template>

<style scoped>
.when {
  color: inherit;
}
.journal {
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.filters {
  display: flex;
  gap: 8px;
  padding: 8px 12px;
}
.filters .plain {
  min-height: 40px;
}
.filters input {
  width: 240px;
}
.filters select {
  min-width: 0;
  flex: 0 1 170px;
}
.link {
  background: var(--c-paper);
  display: inline-flex;
  align-items: center;
  padding: 0 12px;
  text-decoration: none;
  color: var(--c-ink);
  border: 1px solid var(--c-line);
  border-radius: 4px;
}
.link.on {
  background: var(--c-tint);
  border-color: var(--c-spruce);
  font-weight: 650;
}
.lines {
  flex: 1;
  overflow: auto;
}
.entry {
  cursor: pointer;
}
.entry td {
  height: 40px;
  font-size: 14px;
}
.wrap {
  white-space: normal !important;
}
.said {
  background: var(--c-tint);
  padding: 8px 16px;
}
.said p {
  margin: 2px 0;
}
.said form {
  display: flex;
  gap: 8px;
}
.said input {
  width: 420px;
}
.more {
  padding: 12px 16px;
  color: var(--c-spruce);
}
.empty {
  text-align: center;
  color: var(--c-quiet);
  margin-top: 40px;
}
</style>
