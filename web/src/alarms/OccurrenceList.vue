<script setup lang="ts">
import { computed, onUnmounted, ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '../api/client'
import { moment } from '../kit/moment'
import { live } from '../live/live'
import AlarmTab from './AlarmTab.vue'
import { lasting, occurrenceColumns, stamps } from './columns'
import { PRIORITIES } from './useAlarms'

/** How often alarms came, a line each: when, acknowledged when and by whom, gone when, and how long they stood. */
const props = defineProps<{ project: string; query?: Record<string, unknown>; columns?: string }>()
const lines = shallowRef<Schemas['Occurrence'][]>([])
const next = ref(0)
const problem = ref('')
const columns = computed(() => occurrenceColumns(props.columns ?? ''))
let asked = 0

async function load(further = false) {
  const mine = ++asked
  try {
    const page = await ask(
      api.GET('/api/projects/{project}/journal/occurrences', {
        params: {
          path: { project: props.project },
          query: { ...props.query, before: further ? next.value : undefined, limit: 100 },
        },
      }),
    )
    if (mine !== asked) return
    lines.value = further ? [...lines.value, ...page.occurrences] : page.occurrences
    next.value = page.next
    problem.value = ''
  } catch (e) {
    problem.value = sentence(e)
  }
}
watch(
  () => JSON.stringify(props.query ?? {}),
  () => load(),
  { immediate: true },
)
// What happens shows by itself, as long as nobody reads on below.
onUnmounted(
  live.news(
    props.project,
    (n) => n.things?.some((x) => x.startsWith('alarms/')) && lines.value.length <= 100 && void load(),
  ),
)

const times: Record<string, (o: Schemas['Occurrence']) => number> = {
  came: (o) => o.came,
  acked: (o) => o.acked,
  went: (o) => o.went,
}
function text(o: Schemas['Occurrence'], key: string, format: string): string {
  const time = times[key]?.(o)
  if (time !== undefined) return time ? moment(time, stamps[format] ?? stamps.time!) : '—'
  if (key === 'long') return o.went ? lasting(o.long) : '—'
  return String(o[key as 'name' | 'text' | 'by' | 'area' | 'value'] ?? '')
}
</script>

<template>
  <div class="occurrences">
    <div v-if="problem" class="problem">{{ problem }}</div>
    <div class="lines">
      <table class="grid">
        <thead>
          <tr>
            <th v-for="c in columns" :key="c.key">{{ $t($word('occurrence', c.key)) }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="o in lines" :key="o.seq" :class="{ stands: !o.went }">
            <td
              v-for="c in columns"
              :key="c.key"
              :class="{
                mono: c.key in times || c.key === 'long' || c.key === 'value',
                wrap: c.key === 'text',
              }">
              <AlarmTab v-if="c.key === 'tab'" :priority="PRIORITIES[o.priority]!" :state="o.state" />
              <template v-else>
                {{ text(o, c.key, c.format) }}
                <span v-if="c.key === 'text' && o.gone && o.gone !== o.text" class="quiet">
                  · {{ o.gone }}
                </span>
              </template>
            </td>
          </tr>
        </tbody>
      </table>
      <button v-if="next" class="bare more" @click="load(true)">{{ $t('alarm.older') }}</button>
      <p v-if="!lines.length" class="empty">{{ $t('alarm.noEntries') }}</p>
    </div>
  </div>
</template>

<style scoped>
.occurrences {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
}
.lines {
  flex: 1;
  overflow: auto;
}
td {
  height: 40px;
  font-size: 14px;
}
.stands {
  font-weight: 650;
}
.wrap {
  white-space: normal !important;
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
