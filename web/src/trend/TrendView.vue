<script setup lang="ts">
import { mdiArrowULeftTop, mdiFastForward } from '@mdi/js'
import { refDebounced, useElementSize } from '@vueuse/core'
import { computed, ref, shallowRef, toRef, useTemplateRef, watch } from 'vue'
import { api, ask, sentence, type Schemas } from '../api/client'
import { clock, dayAndTime, moment } from '../kit/moment'
import { span } from '../kit/span'
import { insets, unitsOf } from './pens'
import { spans, useRange, zoomed } from './range'
import { edgeFrom, near } from './rows'
import TrendPens from './TrendPens.vue'
import TrendRows from './TrendRows.vue'
import TrendTable from './TrendTable.vue'
import { useTrend } from './useTrend'

// Pens and rows over one time, with two cursors between which they are measured.
const props = defineProps<{ project: string; tags: string[] }>()
const emit = defineEmits<{ 'update:tags': [tags: string[]] }>()
const tags = toRef(props, 'tags')
const looked = useRange()
const { range, following, before } = looked
const stage = useTemplateRef('stage')
const { width } = useElementSize(stage)
const { trend, problem } = useTrend(
  () => props.project,
  tags,
  looked,
  () => Math.max(100, Math.round(width.value || 1000)),
)
const lines = computed(() => trend.value?.lines ?? [])
const pens = computed(() => lines.value.filter((l) => l.pen))
const rows = computed(() => lines.value.filter((l) => l.row))
const inset = computed(() => insets(unitsOf(lines.value).length))
const plot = computed(() => Math.max(1, width.value - inset.value.left - inset.value.right))
const perPixel = computed(() => (range.value.to - range.value.from) / plot.value)

const inverted = ref(new Set<string>())
const chosen = ref<string>()
const cursors = shallowRef<{ a?: number; b?: number }>({})
const places = computed(() =>
  (['a', 'b'] as const).flatMap((name) => {
    const at = cursors.value[name]
    if (at === undefined || at < range.value.from || at > range.value.to) return []
    return [{ name, at, left: inset.value.left + (at - range.value.from) / perPixel.value }]
  }),
)
const apart = computed(() => {
  const { a, b } = cursors.value
  return a === undefined || b === undefined ? '' : span(Math.abs(b - a) / 1000)
})

const between = shallowRef<Schemas['Between'][]>([])
const measure = refDebounced(
  computed(() => {
    const { a, b } = cursors.value
    return a === undefined || b === undefined || a === b
      ? undefined
      : { a: Math.min(a, b), b: Math.max(a, b), of: tags.value }
  }),
  150,
)
watch(measure, async (m) => {
  if (!m) return (between.value = [])
  const got = await ask(
    api.GET('/api/projects/{project}/trend/between', {
      params: {
        path: { project: props.project },
        query: { tags: m.of.join(','), a: Math.round(m.a), b: Math.round(m.b) },
      },
    }),
  ).catch(() => [])
  if (measure.value === m) between.value = got
})

const timeAt = (e: MouseEvent) =>
  range.value.from +
  (e.clientX - stage.value!.getBoundingClientRect().left - inset.value.left) * perPixel.value
function wheel(e: WheelEvent) {
  if (e.shiftKey) return looked.look(shifted((e.deltaY || e.deltaX) * perPixel.value), false)
  looked.look(zoomed(range.value, timeAt(e), e.deltaY > 0 ? 1.25 : 0.8), false)
}
const shifted = (by: number) => ({ from: range.value.from + by, to: range.value.to + by })

/** Fingers and the pointer that lie on the drawing, each where it was last. */
const hands = new Map<number, number>()
let moved = false
function down(e: PointerEvent) {
  if ((e.target as HTMLElement).closest('button')) return
  stage.value!.setPointerCapture(e.pointerId)
  hands.set(e.pointerId, e.clientX)
  moved = false
}
function move(e: PointerEvent) {
  const was = hands.get(e.pointerId)
  if (was === undefined || was === e.clientX || (!moved && Math.abs(e.clientX - was) < 4)) return
  if (!moved) looked.look(range.value) // where it was can be gone back to
  moved = true
  if (hands.size === 2) {
    const other = [...hands].find(([id]) => id !== e.pointerId)![1]
    const factor = Math.abs(was - other) / Math.max(8, Math.abs(e.clientX - other))
    looked.look(zoomed(range.value, timeAt({ clientX: other } as MouseEvent), factor), false)
  } else looked.look(shifted((was - e.clientX) * perPixel.value), false)
  hands.set(e.pointerId, e.clientX)
}
function up(e: PointerEvent) {
  if (!hands.delete(e.pointerId) || moved || hands.size) return
  const at = near(
    rows.value.map((l) => l.row!),
    timeAt(e),
    6 * perPixel.value,
  )
  if (at >= range.value.from && at <= range.value.to)
    put(e.shiftKey || cursors.value.a === undefined ? 'a' : 'b', at)
}
function put(name: 'a' | 'b', at: number) {
  cursors.value = { ...cursors.value, [name]: at }
}

/** A cursor's moment: with its day where the range has several, and as fine as a pixel. */
function stamp(at: number): string {
  if (looked.length.value > 20 * 3_600_000) return moment(at, { ...dayAndTime, second: '2-digit' })
  return moment(at, { ...clock, fractionalSecondDigits: perPixel.value < 200 ? 3 : undefined })
}

function keys(e: KeyboardEvent) {
  const name = e.shiftKey ? 'a' : 'b'
  const step = (range.value.to - range.value.from) / (e.ctrlKey ? 10 : 200)
  const middle = (range.value.from + range.value.to) / 2
  const at = cursors.value[name] ?? middle
  const row = rows.value.find((l) => l.tag === chosen.value)?.row
  const acts: Record<string, () => void> = {
    ArrowLeft: () => put(name, at - step),
    ArrowRight: () => put(name, at + step),
    ',': () => row && put(name, edgeFrom(row, at, false) ?? at),
    '.': () => row && put(name, edgeFrom(row, at, true) ?? at),
    ';': () => row && put(name, edgeFrom(row, at, false) ?? at),
    ':': () => row && put(name, edgeFrom(row, at, true) ?? at),
    '+': () => looked.look(zoomed(range.value, middle, 0.5)),
    '-': () => looked.look(zoomed(range.value, middle, 2)),
    PageUp: () => looked.look(shifted(-(range.value.to - range.value.from) / 2)),
    PageDown: () => looked.look(shifted((range.value.to - range.value.from) / 2)),
    End: () => looked.follow(),
    Backspace: () => looked.back(),
    Escape: () => (cursors.value = {}),
  }
  const act = acts[e.key]
  if (!act) return
  e.preventDefault()
  act()
}
function invert(tag: string) {
  const next = new Set(inverted.value)
  if (!next.delete(tag)) next.add(tag)
  inverted.value = next
}
function drop(e: DragEvent) {
  const given = JSON.parse(e.dataTransfer?.getData('application/x-rr-tags') || '[]') as string[]
  if (given.length) emit('update:tags', [...new Set([...props.tags, ...given])])
}
function isSpan(ms: number) {
  return following.value && Math.abs(looked.length.value - ms) < 1
}
</script>

<template>
  <div class="trend" @dragover.prevent @drop.prevent="drop">
    <div class="bar">
      <span class="when mono">{{ moment(range.from, dayAndTime) }} – {{ moment(range.to, dayAndTime) }}</span>
      <span class="grow" />
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
    <p v-if="problem" class="said" role="alert">{{ sentence(problem) }}</p>
    <div
      ref="stage"
      class="stage"
      tabindex="0"
      role="application"
      :aria-label="$t('trend.stage')"
      @keydown="keys"
      @wheel.prevent="wheel"
      @pointerdown="down"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="hands.delete($event.pointerId)">
      <p v-if="!tags.length" class="empty quiet">{{ $t('trend.empty') }}</p>
      <TrendPens
        v-if="tags.length"
        class="pens"
        :class="{ slim: !pens.length }"
        :lines="lines"
        :range="range" />
      <TrendRows
        v-if="rows.length"
        class="signals"
        :lines="rows"
        :range="range"
        :left="inset.left"
        :right="inset.right"
        :inverted="inverted"
        :chosen="chosen"
        @choose="chosen = chosen === $event ? undefined : $event"
        @invert="invert" />
      <div v-for="p in places" :key="p.name" class="cursor" :style="{ left: p.left + 'px' }">
        <span class="flag">{{ p.name.toUpperCase() }}</span>
        <span class="stamp mono">
          {{ stamp(p.at) }}
        </span>
      </div>
    </div>
    <div v-if="tags.length" class="measured">
      <p class="apart mono" aria-live="polite">
        <template v-if="apart">B − A = {{ apart }}</template>
        <span v-else class="quiet">{{ $t('trend.place') }}</span>
      </p>
      <TrendTable
        :lines="lines"
        :between="between"
        :measured="!!between.length"
        @drop="
          emit(
            'update:tags',
            tags.filter((x) => x !== $event),
          )
        " />
    </div>
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
  color: var(--c-onSpruce);
}
.stamp {
  position: absolute;
  top: 2px;
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
.apart {
  margin: 4px 16px;
}
.said {
  margin: 4px 16px;
  color: var(--c-error);
}
</style>
