<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref, shallowRef, watch, type StyleValue } from 'vue'
import { api, ask, sentence, type Schemas } from '../api/client'
import { dayAndTime, moment, toSecond } from '../kit/moment'
import { span } from '../kit/span'
import type { Range } from './range'
import ColumnsPick from './ColumnsPick.vue'
import type { ViewPen } from './pens'
import type { Source } from './source'
import WorkBar from './WorkBar.vue'

// What is shown as rows: one for each change, or one every so often on the
// clock's marks; page by page, and as a file of exactly these rows.
const props = withDefaults(
  defineProps<{
    source: Source
    pens: ViewPen[]
    range: Range
    /** Milliseconds from row to row at first; 0 for one at each change. */
    starts?: number
    /** It can be taken away as files. */
    files?: boolean
    /** The newest rows come first. */
    newest?: boolean
    /** How its columns stand can be changed. */
    arranged?: boolean
  }>(),
  { starts: 60_000, files: true },
)
const emit = defineEmits<{
  look: [stretch: Range]
  change: [tag: string, set: Partial<ViewPen>]
  order: [tag: string, before: string]
}>()
const shown = computed(() => props.pens.filter((p) => !p.column?.hidden))
const paths = shallowRef(new Map<string, string>())
const everies = [0, 100, 1000, 10_000, 60_000, 600_000, 3_600_000, 86_400_000]
const every = ref(props.starts)
const page = shallowRef<Schemas['TablePage']>()
/** Where the pages before this one begin, or of the newest first end. */
const before = shallowRef<number[]>([])
const edge = ref<number>()
const problem = ref('')
// Rows do not run away under the eye while the courses follow now.
const range = refDebounced(
  computed(() => props.range),
  1000,
  { maxWait: 5000 },
)
const query = computed(() => ({
  tags: shown.value.map((p) => p.tag).join(','),
  from: Math.round(range.value.from),
  to: Math.round(range.value.to),
  every: every.value,
  ...(props.source.log ? { log: props.source.log } : {}),
  ...(shown.value.some((p) => p.column)
    ? { looks: JSON.stringify(shown.value.map((p) => p.column ?? {})) }
    : {}),
}))
async function load() {
  if (!shown.value.length) return (page.value = undefined)
  const asked = { ...query.value, newest: props.newest }
  if (edge.value !== undefined) asked[props.newest ? 'to' : 'from'] = edge.value
  try {
    const got = await ask(
      api.GET('/api/projects/{project}/trend/table', {
        params: { path: { project: props.source.project }, query: { ...asked, limit: 100 } },
      }),
    )
    page.value = got
    // A column that is hidden is called as it was while it was shown.
    paths.value = new Map([...paths.value, ...got.columns.map((c) => [c.tag, c.path] as const)])
    problem.value = ''
  } catch (e) {
    problem.value = sentence(e)
  }
}
function restart() {
  before.value = []
  edge.value = undefined
  void load()
}
const columns = computed(() => JSON.stringify([query.value.tags, query.value.looks]))
watch([columns, every], restart, { immediate: true })
watch(range, () => edge.value === undefined && load())
function forth() {
  before.value = [...before.value, edge.value ?? 0]
  edge.value = page.value!.next
  void load()
}
function back() {
  edge.value = before.value.at(-1)
  before.value = before.value.slice(0, -1)
  if (!before.value.length) edge.value = undefined
  void load()
}
// Of the newest first the page after this one is the earlier one.
const earlier = computed(() => (props.newest ? !!page.value?.next : before.value.length > 0))
const later = computed(() => (props.newest ? before.value.length > 0 : !!page.value?.next))
/** A moment as finely as rows may stand apart. */
const form = computed(() =>
  every.value >= 60_000
    ? dayAndTime
    : every.value >= 1000
      ? toSecond
      : { ...toSecond, fractionalSecondDigits: 3 as const },
)
const looks = computed(() => new Map(shown.value.map((p) => [p.tag, p.column ?? {}])))
/** How a column stands. */
function stands(c: Schemas['TableColumn']): StyleValue {
  const { align, colour, width } = looks.value.get(c.tag) ?? {}
  const usual = c.text ? 'left' : 'right'
  return {
    textAlign: align === 'centre' ? 'center' : ((align as 'left' | 'right' | undefined) ?? usual),
    color: colour && `var(--c-${colour})`,
    width: width && width + 'px',
    minWidth: width && width + 'px',
    maxWidth: width && width + 'px',
  }
}
const titled = (c: Schemas['TableColumn']) => looks.value.get(c.tag)?.title || breaking(c.path)
/** A path that may go on in a further line behind each of its dots. */
const breaking = (path: string) => path.replaceAll('.', '.\u200b')
const file = (form: 'wide' | 'long', format: 'csv' | 'xlsx' | 'parquet') =>
  `/api/projects/${props.source.project}/trend/export?` +
  new URLSearchParams({
    ...Object.fromEntries(Object.entries(query.value).map(([k, v]) => [k, String(v)])),
    form,
    format,
  })
</script>

<template>
  <div>
    <WorkBar>
      <label>
        {{ $t('trend.table.every') }}
        <select v-model.number="every" class="plain" :aria-label="$t('trend.table.every')">
          <option v-for="e in everies" :key="e" :value="e">
            {{ e ? span(e / 1000) : $t('trend.table.change') }}
          </option>
        </select>
      </label>
      <button type="button" class="chip" :disabled="!earlier" @click="newest ? forth() : back()">
        ‹ {{ $t('trend.table.back') }}
      </button>
      <button type="button" class="chip" :disabled="!later" @click="newest ? back() : forth()">
        {{ $t('trend.table.forth') }} ›
      </button>
      <span class="grow" />
      <ColumnsPick
        v-if="arranged"
        :pens="pens"
        :names="paths"
        @change="(tag, column) => emit('change', tag, { column })"
        @order="(tag, before) => emit('order', tag, before)" />
      <template v-if="files">
        <a class="chip" :href="file('wide', 'csv')" download>CSV</a>
        <a class="chip" :href="file('long', 'csv')" download>{{ $t('trend.table.long') }}</a>
        <a class="chip" :href="file('wide', 'xlsx')" download>XLSX</a>
        <a class="chip" :href="file('wide', 'parquet')" download>Parquet</a>
      </template>
    </WorkBar>
    <p v-if="problem" class="said" role="alert">{{ problem }}</p>
    <table v-if="page" class="grid records">
      <thead>
        <tr>
          <th>{{ $t('trend.table.time') }}</th>
          <th v-for="c in page.columns" :key="c.tag" class="mono" :style="stands(c)" :title="c.path">
            {{ titled(c) }}{{ c.unit ? ', ' + c.unit : '' }}
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(r, i) in page.rows" :key="i">
          <td>
            <button class="bare mono" @click="emit('look', { from: r.at, to: r.at })">
              {{ moment(r.at, form) }}
            </button>
          </td>
          <td
            v-for="(v, n) in r.values"
            :key="n"
            class="mono"
            :class="{ bad: r.bad?.[n] }"
            :style="r.bad?.[n] ? undefined : stands(page.columns[n]!)"
            :title="r.bad?.[n]">
            {{ v || '—' }}
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="page && !page.rows.length" class="quiet none">{{ $t('trend.table.none') }}</p>
  </div>
</template>

<style scoped>
.grow {
  flex: 1;
}
.records td {
  white-space: nowrap;
}
.records th {
  white-space: normal;
}
.records td,
.records th {
  overflow: hidden;
  text-overflow: ellipsis;
}
.bad {
  color: var(--c-quiet);
}
.said,
.none {
  margin: 4px 16px;
}
.said {
  color: var(--c-error);
}
</style>
