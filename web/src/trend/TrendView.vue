<script setup lang="ts">
import { mdiArrowULeftTop, mdiFastForward } from '@mdi/js'
import { useElementSize } from '@vueuse/core'
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { sentence } from '../api/client'
import { clock, moment, toSecond } from '../kit/moment'
import { span } from '../kit/span'
import { differences } from './difference'
import { insets, names, unitsOf, type Line, type ViewPen } from './pens'
import { spans, useRange, zoomed, type Range } from './range'
import { edgeFrom, near } from './rows'
import type { Source } from './source'
import { BEFORE } from '../replay/where'
import NoteBox from './NoteBox.vue'
import PictureOut from './PictureOut.vue'
import TrendEdges from './TrendEdges.vue'
import TrendFind from './TrendFind.vue'
import TrendMarks from './TrendMarks.vue'
import TrendOverview from './TrendOverview.vue'
import TrendRecords from './TrendRecords.vue'
import TrendPens from './TrendPens.vue'
import TrendRows from './TrendRows.vue'
import TrendTable from './TrendTable.vue'
import WhenPick from './WhenPick.vue'
import { useCursors } from './useCursors'
import { useHands } from './useHands'
import { useMarks } from './useMarks'
import { type Laid, useGhosts } from './useGhosts'
import { useTrend } from './useTrend'

// Pens and rows over one time, with two cursors between which they are measured.
const props = withDefaults(
  defineProps<{
    project: string
    /** Whose names a condition uses. */
    program?: 'draft' | 'release'
    /** The log that is read; what the recorder has where there is none. */
    log?: string
    pens: ViewPen[]
    /** What is shown at first, in milliseconds. */
    shows?: number
    /** The window that is shown as it changes; what people look at stands until it does. */
    window?: Range
    /** A window should be told, and cannot be. */
    untold?: boolean
    figures?: boolean
    /** What was found can become an alarm. */
    alarms?: boolean
    /** What a picture of it is headed by. */
    title?: string
    /** For fingers: what is pressed is large. */
    touch?: boolean
  }>(),
  {
    figures: true,
    shows: undefined,
    window: undefined,
    program: 'release',
    log: undefined,
    title: undefined,
  },
)
const emit = defineEmits<{
  'update:pens': [pens: ViewPen[]]
  /** Of a condition, the seconds that it holds at least, and from when it was looked for. */
  alarm: [condition: string, least: number, from: number]
}>()
// Asked anew where other tags are, not where they stand otherwise.
const tags = computed<string[]>((old) => {
  const next = props.pens.map((p) => p.tag)
  return old && old.join() === next.join() ? old : next
})
const source = computed<Source>(() => ({ project: props.project, log: props.log }))
const looked = useRange(props.shows)
watch(
  () => props.shows,
  (shows) => shows && looked.follow(shows),
)
watch(
  () => props.window,
  (window) => window && looked.look(window),
  { immediate: true },
)
const { range, following, before } = looked
const stage = useTemplateRef('stage')
const { width } = useElementSize(stage)
const { trend, problem } = useTrend(
  () => source.value,
  tags,
  looked,
  () => Math.max(100, Math.round(width.value || 1000)),
)
const lines = computed(() => trend.value?.lines ?? [])
/** What is laid under what is shown. */
const laid = shallowRef<Laid>({ by: 0, name: '' })
const earlier = computed({
  get: () => laid.value.by,
  set: (by) => (laid.value = { by, name: '' }),
})
const { ghosts } = useGhosts(
  () => source.value,
  tags,
  looked,
  laid,
  () => Math.max(100, Math.round(width.value || 1000)),
)
/** How the chosen pen differs from what is laid under it is drawn too, or how each does where none is chosen. */
const differing = ref(false)
const drawn = computed<Line[]>(() => [
  ...lines.value,
  ...ghosts.value,
  ...(differing.value
    ? differences(
        lines.value.filter((l) => l.tag === (chosen.value ?? l.tag)),
        ghosts.value,
      )
    : []),
])
const courses = computed(() => lines.value.filter((l) => l.pen))
/** The pen whose course stands in the overview: the chosen one, or the first that is a number. */
const overviewed = computed(
  () => (courses.value.find((l) => l.tag === chosen.value) ?? courses.value[0])?.tag ?? tags.value[0] ?? '',
)
const called = computed(() => names(drawn.value))
const rows = computed(() => lines.value.filter((l) => l.row))
const drawnRows = computed(() =>
  rows.value.flatMap((l) => [l, ...ghosts.value.filter((g) => g.row && g.of === l.tag)]),
)
const inset = computed(() => insets(unitsOf(drawn.value).length))
const perPixel = computed(
  () => looked.length.value / Math.max(1, width.value - inset.value.left - inset.value.right),
)
const timeAt = (x: number) =>
  range.value.from + (x - stage.value!.getBoundingClientRect().left - inset.value.left) * perPixel.value

const { marks, load: loadMarks } = useMarks(() => props.project, looked)
/** What is worked with below the courses. */
const works = ['figures', 'table', 'find', 'edges'] as const
const work = ref<(typeof works)[number]>('figures')
const condition = ref('')
const noting = ref(false)
const noted = computed(() => {
  const { a, b } = cursors.value
  const at = b ?? a
  if (measured.value) return { from: measured.value.a, to: measured.value.b }
  return at === undefined ? undefined : { from: at, to: at }
})
/** Shows a stretch with as much before and after it, and has the cursors at its ends. */
function lookAt(s: { from: number; to: number }) {
  const room = Math.max(2000, s.to - s.from)
  looked.look({ from: s.from - room, to: s.to + room })
  measure(s.from, s.to)
}
function measure(from: number, to: number) {
  put('a', from)
  put('b', to)
}
/** What led to a moment: two minutes before it, and a little after. */
const lookBefore = (at: number) => looked.look({ from: at - BEFORE, to: at + BEFORE / 8 })

const inverted = computed(() => new Set(props.pens.flatMap((p) => (p.inverted ? p.tag : []))))
const ends = computed(() => new Map(props.pens.map((p) => [p.tag, p])))
const chosen = ref<string>()
const choose = (tag: string) => (chosen.value = chosen.value === tag ? undefined : tag)
const { cursors, span: measured, between, put, clear } = useCursors(() => source.value, tags)
const places = computed(() =>
  (['a', 'b'] as const).flatMap((name) => {
    const at = cursors.value[name]
    if (at === undefined || at < range.value.from || at > range.value.to) return []
    return [{ name, at, left: inset.value.left + (at - range.value.from) / perPixel.value }]
  }),
)
const SNAP = 6
const hands = useHands(looked, { timeAt, perPixel: () => perPixel.value }, (at, e) => {
  const edge = near(
    rows.value.map((l) => l.row!),
    at,
    SNAP * perPixel.value,
  )
  if (edge >= range.value.from && edge <= range.value.to)
    put(e.shiftKey || cursors.value.a === undefined ? 'a' : 'b', edge)
})

/** A cursor's moment: with its day where the range has several, and as fine as a pixel. */
function stamp(at: number): string {
  if (looked.length.value > 20 * 3_600_000) return moment(at, toSecond)
  return moment(at, { ...clock, fractionalSecondDigits: perPixel.value < 200 ? 3 : undefined })
}

function keys(e: KeyboardEvent) {
  const name = e.shiftKey ? 'a' : 'b'
  const step = looked.length.value / (e.ctrlKey ? 10 : 200)
  const middle = (range.value.from + range.value.to) / 2
  const at = cursors.value[name] ?? middle
  const row = rows.value.find((l) => l.tag === chosen.value)?.row
  const edge = (forth: boolean) => () => row && put(name, edgeFrom(row, at, forth) ?? at)
  const acts: Record<string, () => unknown> = {
    ArrowLeft: () => put(name, at - step),
    ArrowRight: () => put(name, at + step),
    // With Shift the keys of comma and full stop are these, in English and in German.
    ',': edge(false),
    '<': edge(false),
    ';': edge(false),
    '.': edge(true),
    '>': edge(true),
    ':': edge(true),
    '+': () => looked.look(zoomed(range.value, middle, 0.5)),
    '-': () => looked.look(zoomed(range.value, middle, 2)),
    PageUp: () => looked.move(-looked.length.value / 2),
    PageDown: () => looked.move(looked.length.value / 2),
    End: () => looked.follow(),
    Backspace: () => looked.back(),
    Escape: clear,
  }
  const act = acts[e.key]
  if (!act) return
  e.preventDefault()
  act()
}
function change(tag: string, set: Partial<ViewPen>) {
  emit(
    'update:pens',
    props.pens.map((p) => (p.tag === tag ? { ...p, ...set } : p)),
  )
}
const invert = (tag: string) => change(tag, { inverted: !inverted.value.has(tag) })
/** Puts a pen in the place of another. */
function order(tag: string, before: string) {
  const pen = props.pens.find((p) => p.tag === tag)
  const to = props.pens.findIndex((p) => p.tag === before)
  if (!pen || to < 0 || tag === before) return
  const rest = props.pens.filter((p) => p !== pen)
  emit('update:pens', [...rest.slice(0, to), pen, ...rest.slice(to)])
}
function drop(e: DragEvent) {
  const given = JSON.parse(e.dataTransfer?.getData('application/x-rr-tags') || '[]') as string[]
  const fresh = given.filter((tag) => !tags.value.includes(tag))
  if (fresh.length) emit('update:pens', [...props.pens, ...fresh.map((tag) => ({ tag }))])
}
const leave = (tag: string) =>
  emit(
    'update:pens',
    props.pens.filter((p) => p.tag !== tag),
  )
const compare = (what: Laid) => (laid.value = what)
defineExpose({ length: looked.length, range, look: looked.look, compare })
const isSpan = (ms: number) => following.value && Math.abs(looked.length.value - ms) < 1
</script>

<template>
  <div class="trend" :class="{ touch }" @dragover.prevent @drop.prevent="drop">
    <div class="bar">
      <WhenPick :range="range" :touch="touch" @look="looked.look" />
      <span class="grow" />
      <select v-model.number="earlier" class="plain compare" :aria-label="$t('trend.compare.with')">
        <option :value="0">{{ $t('trend.compare.none') }}</option>
        <option v-for="s in spans.slice(1, 5)" :key="s" :value="s">
          {{ $t('trend.compare.ago', { span: span(s / 1000) }) }}
        </option>
        <option v-if="laid.name" :value="laid.by">{{ $t('trend.compare.span', { name: laid.name }) }}</option>
        <option v-if="measured && measured.b > measured.a" :value="measured.b - measured.a">
          {{ $t('trend.compare.b') }}
        </option>
      </select>
      <button
        v-if="ghosts.some((g) => g.pen)"
        class="chip"
        :class="{ on: differing }"
        :aria-pressed="differing"
        @click="differing = !differing">
        {{ $t('trend.compare.differ') }}
      </button>
      <v-btn
        variant="text"
        size="small"
        :icon="mdiArrowULeftTop"
        :disabled="!before.length"
        :aria-label="$t('trend.back')"
        :title="$t('trend.back')"
        @click="looked.back" />
      <button
        v-for="s in spans"
        :key="s"
        class="chip"
        :class="{ on: isSpan(s) }"
        :aria-pressed="isSpan(s)"
        @click="looked.follow(s)">
        {{ span(s / 1000) }}
      </button>
      <button
        class="chip"
        :class="{ on: following }"
        :aria-pressed="following"
        @click="following ? looked.look(range) : looked.follow()">
        <v-icon :icon="mdiFastForward" size="14" />
        {{ $t('trend.follow') }}
      </button>
    </div>
    <p v-if="untold" class="said" role="alert">{{ $t('trend.when.unknown') }}</p>
    <p v-if="problem" class="said" role="alert">{{ sentence(problem) }}</p>
    <div
      ref="stage"
      class="stage"
      tabindex="0"
      role="application"
      :aria-label="$t('trend.stage')"
      @keydown="keys"
      @wheel.prevent="hands.wheel"
      @pointerdown="hands.down"
      @pointermove="hands.move"
      @pointerup="hands.up"
      @pointercancel="hands.cancel">
      <TrendMarks
        v-if="marks && tags.length"
        :replay="project"
        :marks="marks"
        :range="range"
        :left="inset.left"
        :right="inset.right"
        :per-pixel="perPixel"
        @look="lookBefore"
        @measure="measure" />
      <p v-if="!tags.length" class="empty quiet">
        <slot name="empty">{{ $t('trend.empty') }}</slot>
      </p>
      <TrendPens
        v-if="tags.length"
        class="pens"
        :class="{ slim: !courses.length }"
        :lines="drawn"
        :range="range"
        :ends="ends"
        :chosen="chosen" />
      <TrendRows
        v-if="rows.length"
        class="signals"
        :lines="drawnRows"
        :names="called"
        :range="range"
        :left="inset.left"
        :right="inset.right"
        :inverted="inverted"
        :chosen="chosen"
        @choose="choose"
        @invert="invert" />
      <div v-for="p in places" :key="p.name" class="cursor" :style="{ left: p.left + 'px' }">
        <span class="flag">{{ p.name.toUpperCase() }}</span>
        <span class="stamp mono">
          {{ stamp(p.at) }}
        </span>
      </div>
    </div>
    <TrendOverview
      v-if="tags.length"
      :source="source"
      :tag="overviewed"
      :looked="looked"
      :left="inset.left"
      :right="inset.right" />
    <div v-if="tags.length && figures" class="measured" :class="{ tall: work !== 'figures' }">
      <div class="works">
        <button
          v-for="w in works"
          :key="w"
          class="chip"
          :class="{ on: work === w }"
          :aria-pressed="work === w"
          @click="work = w">
          {{ $t($word('trend.work', w)) }}
        </button>
        <span class="apart mono" aria-live="polite">
          <template v-if="measured">B − A = {{ span((measured.b - measured.a) / 1000) }}</template>
          <span v-else class="quiet">{{ $t('trend.place') }}</span>
        </span>
        <button v-if="noted" class="chip" @click="noting = true">{{ $t('trend.note.make') }}</button>
        <PictureOut
          v-if="!touch"
          :title="title"
          :lines="drawn"
          :range="range"
          :ends="ends"
          :inverted="inverted"
          :names="called" />
      </div>
      <TrendFind
        v-if="work === 'find'"
        v-model="condition"
        :source="source"
        :program="program"
        :range="range"
        :alarms="alarms"
        @alarm="(condition, least) => emit('alarm', condition, least, range.from)"
        @look="lookAt">
        <template v-if="$slots.condition" #default="{ value, set }">
          <slot name="condition" :value="value" :set="set" />
        </template>
      </TrendFind>
      <TrendRecords
        v-else-if="work === 'table'"
        :source="source"
        :pens="pens"
        :range="range"
        arranged
        @look="lookAt"
        @change="change"
        @order="order" />
      <TrendEdges
        v-else-if="work === 'edges'"
        :source="source"
        :rows="rows"
        :names="called"
        :range="range"
        @look="lookAt" />
      <TrendTable
        v-else
        :touch="touch"
        :lines="lines"
        :between="between"
        :measured="!!between.length"
        :chosen="chosen"
        :ends="ends"
        @choose="choose"
        @order="order"
        @scale="change"
        @drop="leave" />
    </div>
    <NoteBox
      v-if="noting && noted"
      :project="project"
      :tag="tags[0]"
      :stretch="noted"
      @close="noting = false"
      @kept="((noting = false), loadMarks())" />
  </div>
</template>

<style scoped>
.trend {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
  background: var(--c-sheet);
}
.bar {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 6px 16px;
  flex-wrap: wrap;
}
.grow {
  flex: 1;
}
.compare {
  width: auto;
}
.touch .bar .compare,
.touch .bar :deep(.chip),
.touch .bar :deep(.v-btn) {
  min-height: 44px;
  min-width: 44px;
  font-size: 16px;
}
.stage {
  position: relative;
  flex: 1 1 320px;
  min-height: 200px;
  display: flex;
  flex-direction: column;
  overflow: hidden auto;
  touch-action: none;
  cursor: crosshair;
}
.stage:focus-visible {
  outline: 2px solid var(--c-spruce);
  outline-offset: -2px;
}
.pens {
  flex: 1 1 160px;
}
.pens.slim {
  flex: 0 0 40px;
}
.signals {
  padding-bottom: 22px;
}
.empty {
  margin: auto;
  max-width: 420px;
  text-align: center;
}
.cursor {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 0;
  border-left: 1.5px solid var(--c-spruce);
  pointer-events: none;
}
.flag {
  position: absolute;
  bottom: 2px;
  left: -9px;
  width: 18px;
  text-align: center;
  font-weight: 700;
  font-size: 12px;
  border-radius: 3px;
  background: var(--c-spruce);
  color: var(--c-on-spruce);
}
.stamp {
  position: absolute;
  top: 24px;
  left: 5px;
  font-size: 12px;
  padding: 0 3px;
  background: var(--c-sheet);
  white-space: nowrap;
}
.measured {
  flex: 0 1 auto;
  max-height: 40%;
  overflow: auto;
  border-top: 1px solid var(--c-line);
}
.measured.tall {
  max-height: 50%;
}
.works {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding: 6px 16px;
}
.apart {
  flex: 1;
  margin-left: 8px;
  font-size: 13px;
}
.touch .works .chip {
  min-height: 44px;
  font-size: 16px;
}
.said {
  margin: 4px 16px;
  color: var(--c-error);
}
</style>
