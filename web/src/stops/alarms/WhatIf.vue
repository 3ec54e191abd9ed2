<script setup lang="ts">
import { mdiClose } from '@mdi/js'
import { refDebounced, useElementSize } from '@vueuse/core'
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { coursePath, courseRange } from '../../alarms/course'
import { isLimited } from '../../alarms/useAlarms'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { clock, dayAndTime, moment } from '../../kit/moment'
import { span } from '../../kit/span'
import { useProject } from '../../rail/project'
import PathText from '../../kit/PathText.vue'
import TypedInput from '../../kit/TypedInput.vue'

/**
 * The recorded course of an alarm's signal with its limit, deadband and delays,
 * to drag; and what the dragged ones would have done.
 */
type Setting = 'limit' | 'deadband' | 'onDelay' | 'offDelay'
const props = defineProps<{
  row: Schemas['AlarmRow']
  /** Hours that are to be looked at, at least. */
  reach?: number
}>()
const emit = defineEmits<{ close: [] }>()
const project = useProject()
const { t } = useI18n()
const REACHES = [0.25, 1, 8, 24, 168, 720]
const hours = ref(REACHES.find((h) => h >= (props.reach ?? 1)) ?? 720)
const proposed = ref<Partial<Record<Setting, number>>>({})
const played = shallowRef<Schemas['Played']>()
const problem = ref('')
const plot = useTemplateRef('plot')
const { width } = useElementSize(plot)
const HEIGHT = 150
const LONGEST = 120

const limited = computed(() => isLimited(props.row.kind))
// The limit is drawn where it is on the signal's own scale.
const drawn = computed(
  () => ['high-high', 'high', 'low', 'low-low'].includes(props.row.kind) && limit.value !== undefined,
)
const below = computed(() => props.row.kind.startsWith('low'))
const limit = computed(() => proposed.value.limit ?? played.value?.limit ?? undefined)
const of = (s: Exclude<Setting, 'limit'>) => proposed.value[s] ?? props.row[s] ?? 0
const changed = computed(() => Object.keys(proposed.value).length > 0)
const set = computed(() =>
  Object.fromEntries(Object.entries(proposed.value).map(([k, v]) => [k, k === 'limit' ? String(v) : v])),
)

watch(
  () => props.row.id,
  () => (proposed.value = {}),
)
let asked = 0
watch(
  [() => props.row, hours, refDebounced(set, 150)],
  async () => {
    const mine = ++asked
    try {
      const got = await ask(
        api.POST('/api/projects/{project}/alarm-definitions/{id}/plays', {
          params: { path: { ...project.path, id: props.row.id } },
          body: { hours: hours.value, set: set.value, cure: !changed.value },
        }),
      )
      if (mine !== asked) return
      if (changed.value) got.cures = played.value?.cures ?? []
      played.value = got
      problem.value = ''
    } catch (e) {
      problem.value = sentence(e)
    }
  },
  { immediate: true },
)

const range = computed(() =>
  courseRange(played.value?.points ?? [], drawn.value ? limit.value : undefined, 0.12),
)
const x = (at: number) => ((at - played.value!.from) / (played.value!.to - played.value!.from)) * width.value
const y = (v: number) => HEIGHT - ((v - range.value.low) / (range.value.high - range.value.low)) * HEIGHT
const path = computed(() =>
  played.value && width.value ? coursePath(played.value.points, x, y, width.value) : '',
)
/**
 * Where nothing is known: before the first sample, and while the quality is bad. A
 * formula has no course of its own.
 */
const gaps = computed(() => [
  ...(played.value && props.row.tag
    ? [[played.value.from, played.value.since || played.value.to] as const]
    : []),
  ...(played.value?.points ?? []).flatMap((p, i, all) =>
    p.bad ? [[p.at, all[i + 1]?.at ?? played.value!.to] as const] : [],
  ),
])
const spells = (l: Schemas['Lived'] | undefined) =>
  (l?.spells ?? []).map(([from, to]) => ({
    x: x(from!),
    w: Math.max(1.5, x(to || played.value!.to) - x(from!)),
  }))
const ticks = computed(() =>
  played.value
    ? [0, 0.25, 0.5, 0.75].map((f) => played.value!.from + f * (played.value!.to - played.value!.from))
    : [],
)

/** A number with as many figures as a drag of one pixel can tell. */
function fine(v: number, pixel: number) {
  const step = 10 ** Math.floor(Math.log10(Math.abs(pixel) || 1))
  return Number((Math.round(v / step) * step).toPrecision(10))
}
function drag(what: Setting, e: PointerEvent) {
  const target = e.currentTarget as Element
  target.setPointerCapture(e.pointerId)
  const box = plot.value!.getBoundingClientRect()
  const scale = range.value
  const move = (m: PointerEvent) => {
    const pixel = (scale.high - scale.low) / HEIGHT
    const v = scale.low + (1 - (m.clientY - box.top) / HEIGHT) * (scale.high - scale.low)
    if (what === 'limit') put('limit', fine(v, pixel))
    else if (what === 'deadband')
      put('deadband', Math.max(0, fine(below.value ? v - limit.value! : limit.value! - v, pixel)))
    else
      put(
        what,
        Math.max(
          0,
          Math.round(
            ((m.clientX - target.parentElement!.getBoundingClientRect().left) /
              target.parentElement!.clientWidth) *
              LONGEST,
          ),
        ),
      )
  }
  target.addEventListener('pointermove', move as EventListener)
  target.addEventListener(
    'lostpointercapture',
    () => target.removeEventListener('pointermove', move as EventListener),
    { once: true },
  )
}
function put(what: Setting, v: number) {
  if (Number.isFinite(v)) proposed.value = { ...proposed.value, [what]: v }
}
async function take() {
  const ops = Object.entries(set.value).map(([k, v]) => ({
    kind: 'alarm',
    id: props.row.id,
    path: '/' + k,
    value: v || (k === 'limit' ? '0' : undefined),
  }))
  const refused = await project.edit(t('alarms.edited', { n: 1 }), ops)
  if (refused) problem.value = refused.message
  else proposed.value = {}
}
const numbers = computed<Setting[]>(() => [
  ...(limited.value ? (['limit', 'deadband'] as const) : []),
  'onDelay',
  'offDelay',
])
</script>

<template>
  <section class="what" :aria-label="$t('whatIf.title')">
    <div class="head">
      <strong>{{ $t('whatIf.title') }}</strong>
      <PathText class="mono" :path="row.path" />
      {{ row.name }}
      <span class="grow" />
      <button
        v-for="h in REACHES"
        :key="h"
        class="chip"
        :class="{ on: hours === h }"
        :aria-pressed="hours === h"
        @click="hours = h">
        {{ span(h * 3600) }}
      </button>
      <button class="bare" :aria-label="$t('notice.close')" @click="emit('close')">
        <v-icon :icon="mdiClose" size="18" />
      </button>
    </div>
    <div class="body">
      <div ref="plot" class="plot">
        <svg
          v-if="played && width"
          :width="width"
          :height="HEIGHT + 34"
          role="img"
          :aria-label="$t('whatIf.course')">
          <rect
            v-for="(s, i) in spells(played.proposed)"
            :key="'s' + i"
            class="spell"
            :x="s.x"
            :width="s.w"
            y="0"
            :height="HEIGHT" />
          <rect
            v-for="([a, b], i) in gaps"
            :key="'g' + i"
            class="gap"
            :x="x(a)"
            :width="x(b) - x(a)"
            y="0"
            :height="HEIGHT" />
          <path :d="path" class="course" />
          <template v-if="drawn">
            <line class="limit" x1="0" :x2="width" :y1="y(limit!)" :y2="y(limit!)" />
            <line
              class="grab"
              x1="0"
              :x2="width"
              :y1="y(limit!)"
              :y2="y(limit!)"
              @pointerdown="drag('limit', $event)" />
            <text class="name" x="4" :y="y(limit!) + (below ? 13 : -4)">
              {{ $t('alarms.limit') }} {{ limit }}
            </text>
            <line
              class="band"
              x1="0"
              :x2="width"
              :y1="y(limit! + (below ? of('deadband') : -of('deadband')))"
              :y2="y(limit! + (below ? of('deadband') : -of('deadband')))" />
            <line
              class="grab half"
              :x1="width * 0.7"
              :x2="width"
              :y1="y(limit! + (below ? of('deadband') : -of('deadband'))) + (below ? -3 : 3)"
              :y2="y(limit! + (below ? of('deadband') : -of('deadband'))) + (below ? -3 : 3)"
              @pointerdown="drag('deadband', $event)" />
          </template>
          <rect
            v-for="(s, i) in spells(played.now)"
            :key="'n' + i"
            class="was"
            :x="s.x"
            :width="s.w"
            :y="HEIGHT + 3"
            height="5" />
          <rect
            v-for="(s, i) in spells(played.proposed)"
            :key="'p' + i"
            class="would"
            :x="s.x"
            :width="s.w"
            :y="HEIGHT + 10"
            height="5" />
          <text v-for="at in ticks" :key="at" class="tick" :x="x(at) + 2" :y="HEIGHT + 30">
            {{ moment(at, hours > 12 ? dayAndTime : clock) }}
          </text>
        </svg>
        <p v-if="played && row.tag && !played.since" class="none">{{ $t('whatIf.none') }}</p>
      </div>
      <div class="side">
        <table class="sum">
          <thead>
            <tr>
              <th />
              <th>{{ $t('whatIf.came') }}</th>
              <th>{{ $t('whatIf.stood') }}</th>
              <th>{{ $t('whatIf.longest') }}</th>
              <th>{{ $t('performance.chatter') }}</th>
              <th>{{ $t('performance.fleeting') }}</th>
            </tr>
          </thead>
          <tbody v-if="played">
            <tr v-for="k in ['now', 'proposed'] as const" :key="k">
              <th>
                <i :class="k === 'now' ? 'was' : 'would'" />
                {{ $t($word('whatIf', k)) }}
              </th>
              <td>{{ played[k].count }}</td>
              <td>{{ span(played[k].stood) }}</td>
              <td>{{ span(played[k].longest) }}</td>
              <td>{{ played[k].chatter }}</td>
              <td>{{ played[k].fleeting }}</td>
            </tr>
          </tbody>
        </table>
        <div class="set">
          <label v-for="s in numbers" :key="s">
            {{ $t($word('alarms', s)) }}
            <TypedInput
              class="plain mono"
              :value="s === 'limit' ? (proposed.limit ?? row.limit) : of(s)"
              @change="put(s, Number(($event.target as HTMLInputElement).value.replace(',', '.')))" />
            <span v-if="s === 'onDelay' || s === 'offDelay'" class="bar">
              <i :style="{ width: `${(Math.min(of(s), LONGEST) / LONGEST) * 100}%` }" />
              <b
                :style="{ left: `${(Math.min(of(s), LONGEST) / LONGEST) * 100}%` }"
                @pointerdown.prevent="drag(s, $event)" />
            </span>
          </label>
        </div>
        <div v-if="played?.cures.length" class="cures">
          {{ $t('whatIf.cures') }}
          <button
            v-for="c in played.cures"
            :key="c.setting"
            class="chip"
            @click="proposed = { [c.setting]: c.value }">
            {{ $t('whatIf.cure', { setting: $t($word('alarms', c.setting)), value: c.value, n: c.count }) }}
          </button>
        </div>
        <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
        <div v-if="changed">
          <v-btn color="primary" size="small" @click="take">{{ $t('whatIf.take') }}</v-btn>
          {{ ' ' }}
          <v-btn variant="text" size="small" @click="proposed = {}">{{ $t('gear.discard') }}</v-btn>
        </div>
      </div>
    </div>
  </section>
</template>

<style scoped>
.what {
  border-top: 2px solid var(--c-line);
  background: var(--c-paper);
  flex: none;
}
.head {
  display: flex;
  gap: 8px;
  align-items: center;
  padding: 6px 14px;
  font-size: 13px;
}
.grow {
  flex: 1;
}
.chip.on {
  background: var(--c-tint);
  border-color: var(--c-spruce);
}
.body {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 430px;
  gap: 14px;
  padding: 0 14px 10px;
}
.plot {
  position: relative;
  min-height: 184px;
  min-width: 0;
}
svg {
  display: block;
  background: linear-gradient(var(--c-sheet), var(--c-sheet)) 0 0 / 100% 150px no-repeat;
  touch-action: none;
}
.course {
  fill: none;
  stroke: var(--c-ink);
  stroke-width: 1.3;
}
.spell {
  fill: var(--c-high);
  opacity: 0.16;
}
.gap {
  fill: var(--c-line);
  opacity: 0.6;
}
.limit {
  stroke: var(--c-high);
  stroke-width: 2;
}
.band {
  stroke: var(--c-high);
  stroke-dasharray: 5 4;
}
.grab {
  stroke: transparent;
  stroke-width: 14;
  cursor: ns-resize;
  pointer-events: stroke;
}
.grab.half {
  stroke-width: 12;
}
.name,
.tick {
  font-size: 12px;
  fill: var(--c-ink);
}
.tick {
  fill: var(--c-quiet);
  font-size: 11px;
}
rect.was {
  fill: var(--c-quiet);
}
rect.would {
  fill: var(--c-spruce);
}
.none {
  position: absolute;
  inset: 50px 0 auto;
  text-align: center;
  color: var(--c-quiet);
  margin: 0;
}
.side {
  display: grid;
  gap: 8px;
  align-content: start;
  font-size: 13px;
}
.sum {
  border-collapse: collapse;
  width: 100%;
  font-variant-numeric: tabular-nums;
}
.sum th {
  font-weight: 500;
  font-size: 12px;
  color: var(--c-quiet);
  text-align: right;
}
.sum th:first-child {
  text-align: left;
}
.sum td {
  text-align: right;
  padding: 2px 0 2px 6px;
  font-family: var(--mono);
  white-space: nowrap;
  font-size: 12px;
}
.sum tbody th {
  white-space: nowrap;
}
.sum i {
  display: inline-block;
  width: 10px;
  height: 5px;
  margin-right: 6px;
  vertical-align: middle;
  background: var(--c-quiet);
}
.sum i.would {
  background: var(--c-spruce);
}
.set {
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 8px;
}
.set label {
  display: grid;
  gap: 2px;
  font-size: 12px;
  color: var(--c-quiet);
  align-content: start;
}
.set input {
  min-height: 30px;
  min-width: 0;
}
.bar {
  position: relative;
  height: 14px;
  background: linear-gradient(var(--c-line), var(--c-line)) 0 6px / 100% 2px no-repeat;
  touch-action: none;
}
.bar i {
  position: absolute;
  left: 0;
  top: 4px;
  height: 6px;
  background: var(--c-spruce);
}
.bar b {
  position: absolute;
  top: 0;
  width: 8px;
  height: 14px;
  margin-left: -4px;
  background: var(--c-spruce);
  border-radius: 2px;
  cursor: ew-resize;
}
.cures {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
  align-items: center;
}
</style>
