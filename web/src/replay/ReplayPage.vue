<script setup lang="ts">
import { mdiPause, mdiPlay, mdiSkipNext, mdiSkipPrevious, mdiStepBackward, mdiStepForward } from '@mdi/js'
import { useElementSize, watchDebounced } from '@vueuse/core'
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import AlarmTab from '../alarms/AlarmTab.vue'
import { PRIORITIES } from '../alarms/useAlarms'
import { api, ask, sentence, type Schemas } from '../api/client'
import { useSession } from '../api/session'
import { provideAround } from '../canvas/around'
import ScreenDefs from '../canvas/ScreenDefs.vue'
import AlarmBanner from '../desk/AlarmBanner.vue'
import { placesOf } from '../desk/places'
import { useDeskAlarms } from '../desk/useDeskAlarms'
import { moment, toSecond } from '../kit/moment'
import { span } from '../kit/span'
import { courses } from '../trend/course'
import { inOrder } from '../trend/marks'
import { spans, useRange } from '../trend/range'
import TrendMarks from '../trend/TrendMarks.vue'
import { useMarks } from '../trend/useMarks'
import { colour } from '../theme'
import { speeds, useReplay } from './useReplay'
import { BEFORE } from './where'

// Any screen of the release, or of the draft as it is drawn now, through recorded time. A frame round the page and
// the banner say that this is not now, and nothing in it can be operated; an
// alarm of now is announced above all the same.
const route = useRoute()
const router = useRouter()
const session = useSession()
const { t } = useI18n()
const project = computed(() => route.params.project as string)
const language = localStorage.getItem('rr-desk-language') ?? ''
/** Screens are those of the draft. */
const drafted = computed(() => route.query.program === 'draft')
const at = ref(Number(route.query.at) || Date.now() - 120_000)
const desk = shallowRef<Schemas['Desk']>()
const said = ref('')

provideAround({
  now: () => new Date(at.value),
  picture: (id) => `/api/projects/${project.value}/pictures/${id}`,
  course: courses(() => project.value),
})
async function load() {
  try {
    if (!session.me) await session.load()
    if (!session.me?.person) return void router.replace({ name: 'start', query: { next: route.fullPath } })
    const params = {
      path: { project: project.value },
      query: { program: drafted.value ? ('try' as const) : ('release' as const), language },
    }
    desk.value = await ask(api.GET('/api/projects/{project}/desk', { params }))
  } catch (e) {
    said.value = sentence(e)
  }
}
watch([project, drafted], load, { immediate: true })

/** The screens that can be looked at, each as the navigation has it. */
const places = computed(() =>
  placesOf(desk.value?.screens ?? [])
    .filter((p) => !p.locked)
    .map((p) => {
      const args = p.opens.args ? JSON.stringify(p.opens.args) : ''
      return { key: p.id + args, screen: p.id, name: p.name, args, home: p.home }
    }),
)
const place = computed(() => {
  const id = route.params.screen as string | undefined
  const args = (route.query.args as string | undefined) ?? ''
  const all = places.value
  return (
    all.find((p) => p.screen === id && p.args === args) ??
    all.find((p) => p.screen === id) ??
    all.find((p) => p.home) ??
    all[0]
  )
})
function show(key: string) {
  const p = places.value.find((x) => x.key === key)
  if (p) go(p.screen, p.args)
}
function go(screen: string | undefined, args: string) {
  void router.replace({
    name: 'replay',
    params: { project: project.value, screen },
    query: {
      at: String(Math.round(at.value)),
      ...(args ? { args } : {}),
      ...(drafted.value ? { program: 'draft' } : {}),
    },
  })
}

// The address is a link to the moment, once it stands.
watchDebounced(at, () => !playing.value && place.value && go(place.value.screen, place.value.args), {
  debounce: 500,
})

// The strip: a range of time with what happened in it.
const looked = useRange()
looked.look({ from: at.value - 4 * 3_600_000, to: at.value + 4 * 3_600_000 })
watch(at, (now) => {
  const { from, to } = looked.range.value
  if (now < from || now > to) looked.move(now - (from + to) / 2, false)
})
function widen(ms: number) {
  looked.look({ from: at.value - ms / 2, to: at.value + ms / 2 })
}
const { marks } = useMarks(() => project.value, looked, true)
const root = ref<SVGGElement>()
const { scene, problem, shown, playing, speed, step } = useReplay(
  () => project.value,
  () => place.value?.screen,
  () => place.value?.args ?? '',
  () => language,
  () => (drafted.value ? 'draft' : 'release'),
  at,
  root,
  () => (marks.value?.more ? undefined : marks.value),
)
const strip = useTemplateRef('strip')
const { width } = useElementSize(strip)
const perPixel = computed(() => looked.length.value / Math.max(1, width.value))
const happened = computed(() => (marks.value ? inOrder(marks.value, Date.now()) : []))
/** The alarms that stood at the moment: those from before the strip's time, and those that came in it. */
const stood = computed(() => [
  ...(marks.value?.stood ?? []).filter((a) => !a.went || a.went > at.value),
  ...happened.value.filter((m) => m.kind === 'alarm' && m.at <= at.value && m.to > at.value),
])
function jump(back: boolean) {
  playing.value = false
  const list = happened.value
  const to = back ? list.findLast((m) => m.at < at.value - 1) : list.find((m) => m.at > at.value + 1)
  if (to) at.value = to.at
}

const field = useTemplateRef('field')
const room = useElementSize(field)
const k = computed(() =>
  scene.value ? Math.min(room.width.value / scene.value.width, room.height.value / scene.value.height) : 1,
)
let quiet = 0
function still() {
  said.value = t('replay.still')
  clearTimeout(quiet)
  quiet = window.setTimeout(() => (said.value = ''), 4000)
}
function keys(e: KeyboardEvent) {
  if ((e.target as HTMLElement).closest('select, input')) return
  const by = e.shiftKey ? 60_000 : 1000
  const acts: Record<string, () => unknown> = {
    ' ': () => (playing.value = !playing.value),
    ArrowLeft: () => (at.value -= by),
    ArrowRight: () => (at.value = Math.min(Date.now(), at.value + by)),
    ',': () => step(true),
    '.': () => step(false),
    PageUp: () => jump(true),
    PageDown: () => jump(false),
  }
  const act = acts[e.key]
  if (!act) return
  e.preventDefault()
  act()
}
const buttons = computed(() => [
  { icon: mdiSkipPrevious, title: t('replay.lastMark'), act: () => jump(true) },
  { icon: mdiStepBackward, title: t('replay.lastChange'), act: () => step(true) },
  {
    icon: playing.value ? mdiPause : mdiPlay,
    title: playing.value ? t('replay.pause') : t('replay.play'),
    act: () => (playing.value = !playing.value),
  },
  { icon: mdiStepForward, title: t('replay.nextChange'), act: () => step(false) },
  { icon: mdiSkipNext, title: t('replay.nextMark'), act: () => jump(false) },
])
const stamp = (ms: number) => moment(ms, { weekday: 'short', ...toSecond })
const {
  board,
  unsure,
  problem: unread,
  actOn,
} = useDeskAlarms(
  project,
  () => 'release',
  () => language,
  () => [],
  async (opens) =>
    void router.push({ name: 'desk', params: { project: project.value, screen: opens.screen } }),
  (text) => (said.value = text),
)
</script>

<template>
  <div class="replay" tabindex="-1" @keydown="keys">
    <header>
      <strong class="not">{{ $t('replay.notNow') }}</strong>
      <span class="mono when" aria-live="off">{{ stamp(shown) }}</span>
      <select
        class="plain"
        :aria-label="$t('replay.screen')"
        :value="place?.key"
        @change="show(($event.target as HTMLSelectElement).value)">
        <option v-for="p in places" :key="p.key" :value="p.key">{{ p.name }}</option>
      </select>
      <span class="grow" />
      <span class="live">
        <AlarmBanner
          v-if="session.me?.person"
          :board="board"
          :unsure="unsure"
          :problem="unread"
          :on="true"
          @ack="actOn([$event], 'acknowledged')"
          @open="router.push({ name: 'desk', params: { project } })" />
      </span>
      <router-link
        v-if="drafted"
        class="chip big"
        :to="{ name: 'screens', params: { project, id: place?.screen } }">
        {{ $t('replay.draw') }}
      </router-link>
      <router-link v-else class="chip big" :to="{ name: 'desk', params: { project, screen: place?.screen } }">
        {{ $t('replay.now') }}
      </router-link>
    </header>
    <div
      ref="field"
      class="field"
      :style="{ background: colour(scene?.background ?? 'field') }"
      @click="still">
      <svg
        :width="(scene?.width ?? 0) * k"
        :height="(scene?.height ?? 0) * k"
        :viewBox="`0 0 ${scene?.width ?? 1} ${scene?.height ?? 1}`"
        class="screen-svg"
        :class="{ lost: problem }"
        :aria-label="scene?.title || scene?.name">
        <ScreenDefs />
        <g ref="root" />
      </svg>
      <p v-if="said || problem" class="said" role="alert">{{ said || problem }}</p>
      <p v-else-if="desk && !places.length" class="said">
        {{ $t(desk.release ? 'desk.noScreens' : 'desk.nothing') }}
      </p>
    </div>
    <footer>
      <div class="row">
        <button
          v-for="b in buttons"
          :key="b.icon"
          class="key"
          :aria-label="b.title"
          :title="b.title"
          @click="b.act">
          <v-icon :icon="b.icon" />
        </button>
        <button
          v-for="s in speeds"
          :key="s"
          class="chip big"
          :class="{ on: speed === s }"
          :aria-pressed="speed === s"
          @click="speed = s">
          {{ s }}×
        </button>
        <span class="stood">
          <template v-if="stood.length">
            <AlarmTab
              v-for="m in stood.slice(0, 3)"
              :key="m.name"
              :priority="PRIORITIES[m.priority]!"
              state=""
              :text="m.name" />
            <span v-if="stood.length > 3" class="mono">+{{ stood.length - 3 }}</span>
          </template>
          <span v-else-if="marks && !marks.more" class="quiet">{{ $t('replay.none') }}</span>
          <span v-if="marks?.more" class="quiet">{{ $t('replay.more') }}</span>
        </span>
        <button
          v-for="s in spans.slice(1, 5)"
          :key="s"
          class="chip big wide"
          :class="{ on: Math.abs(looked.length.value - s) < 1000 }"
          @click="widen(s)">
          {{ span(s / 1000) }}
        </button>
      </div>
      <div ref="strip" class="strip">
        <TrendMarks
          v-if="marks"
          above
          :marks="marks"
          :range="looked.range.value"
          :left="0"
          :right="0"
          :per-pixel="perPixel"
          @look="at = $event - BEFORE"
          @measure="at = $event" />
        <input
          class="scrub"
          type="range"
          :min="looked.range.value.from"
          :max="looked.range.value.to"
          step="100"
          :value="at"
          :aria-label="$t('replay.scrub')"
          :aria-valuetext="stamp(at)"
          @input="
            ((playing = false),
            (at = Math.min(Date.now(), Number(($event.target as HTMLInputElement).value))))
          " />
        <div class="ends mono">
          <button
            class="bare"
            :aria-label="$t('replay.earlier')"
            @click="looked.move(-looked.length.value / 2)">
            ‹ {{ stamp(looked.range.value.from) }}
          </button>
          <span class="quiet">{{ $t('replay.asNow') }}</span>
          <button class="bare" :aria-label="$t('replay.later')" @click="looked.move(looked.length.value / 2)">
            {{ stamp(looked.range.value.to) }} ›
          </button>
        </div>
      </div>
    </footer>
  </div>
</template>

<style scoped>
.replay {
  height: 100vh;
  box-sizing: border-box;
  display: flex;
  flex-direction: column;
  font-size: 16px;
  outline: none;
  /* Round the whole page: what stands here is not now. */
  border: 8px solid;
  border-image: repeating-linear-gradient(-45deg, var(--c-low) 0 10px, var(--c-sheet) 10px 20px) 8;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 14px;
  min-height: 56px;
  padding: 0 12px;
  background: var(--c-sheet);
  border-bottom: 1px solid var(--c-line);
}
.not {
  padding: 4px 10px;
  border: 2px solid var(--c-low);
}
.when {
  font-size: 18px;
  font-weight: 700;
  white-space: nowrap;
}
header select {
  width: auto;
  min-height: 44px;
}
.grow {
  flex: 1 1 auto;
}
/* On a panel that is not wide, what is announced of now has a line of its own. */
.live {
  flex: 1 1 640px;
  min-width: 0;
  order: 1;
}
.field {
  flex: 1;
  min-height: 0;
  position: relative;
  overflow: hidden;
  display: grid;
  place-items: center;
  cursor: not-allowed;
}
.field svg {
  display: block;
  pointer-events: none;
}
/* It is of another moment than the one that was asked for. */
.field svg.lost {
  opacity: 0.35;
  filter: grayscale(1);
}
.said {
  position: absolute;
  top: 12px;
  padding: 10px 18px;
  background: var(--c-sheet);
  border: 2px solid var(--c-ink);
  border-radius: 4px;
}
footer {
  padding: 6px 12px 8px;
  background: var(--c-sheet);
  border-top: 1px solid var(--c-line);
}
.row {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
.key,
.big {
  min-width: 44px;
  min-height: 44px;
  font-size: 16px;
  text-decoration: none;
  color: inherit;
  display: inline-flex;
  align-items: center;
  justify-content: center;
}
.key {
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  cursor: pointer;
}
.stood {
  flex: 1;
  min-width: 0;
  display: flex;
  gap: 8px;
  overflow: hidden;
}
.scrub {
  display: block;
  width: 100%;
  min-height: 28px;
  margin: 0;
  accent-color: var(--c-spruce);
}
.ends {
  display: flex;
  justify-content: space-between;
  font-size: 13px;
}
/* On a small panel the screen keeps its room: what can be done without goes. */
@media (max-width: 900px), (max-height: 600px) {
  .not,
  .when,
  header select {
    font-size: 15px;
  }
  .wide,
  .ends .quiet {
    display: none;
  }
  .row {
    flex-wrap: nowrap;
  }
  footer {
    padding: 2px 8px;
  }
}
</style>
