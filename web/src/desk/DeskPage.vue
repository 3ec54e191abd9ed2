<script setup lang="ts">
import { useElementSize, useIntervalFn } from '@vueuse/core'
import { computed, nextTick, onUnmounted, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type LinkStatus, type Schemas, sentence } from '../api/client'
import { useSession } from '../api/session'
import { speak as inLanguage } from '../i18n'
import NoticeLine from '../kit/NoticeLine.vue'
import { useSettings } from '../kit/settings'
import { provideAround } from '../canvas/around'
import { num, str } from '../canvas/element'
import type { Item } from '../canvas/element'
import { clock, moment } from '../kit/moment'
import LinkDiagnosis from '../links/LinkDiagnosis.vue'
import { live, type Opens } from '../live/live'
import { colour } from '../theme'
import { courses } from '../trend/course'
import AskBox from './AskBox.vue'
import DeskBanner from './DeskBanner.vue'
import DeskNav from './DeskNav.vue'
import KeyPad from './KeyPad.vue'
import PointCard from '../links/PointCard.vue'
import { useDeskAlarms } from './useDeskAlarms'
import AlarmBanner from './AlarmBanner.vue'
import AlarmPanel from './AlarmPanel.vue'
import { useScreenErrors } from './useScreenErrors'
import ScreenView, { type Act } from './ScreenView.vue'
import { placesOf } from './places'
import { useDeskKeys } from './useDeskKeys'
import SignInForm from './SignInForm.vue'
import { remote, shownOf, spoken, useCommands } from './useCommands'
import { useHold } from './useHold'
import { useSilence } from './useScene'
import WindowFrame from '../kit/WindowFrame.vue'

const route = useRoute()
const router = useRouter()
const session = useSession()
const settings = useSettings()
const { t } = useI18n()
const project = computed(() => route.params.project as string)
// The same page shows the release to operators and the draft, when it is tried, to engineers.
const program = computed(() => (route.name === 'try' ? 'try' : 'release'))
const desk = shallowRef<Schemas['Desk']>()
const links = shallowRef<LinkStatus[]>([])
const field = ref<HTMLElement>()
const { width, height } = useElementSize(field)
const message = ref('')
const bad = ref(false)
const language = ref(localStorage.getItem('rr-desk-language') ?? '')
const silentSince = useSilence()

// What lies over the screen.
const windows = shallowRef<(Opens & { key: number })[]>([])
/** That somebody is to sign in: for a screen, in another's place, or since nobody is signed in. */
const signing = ref<{ opens?: Opens; roles?: string[]; who?: string; nobody?: true }>()
const diagnosing = shallowRef<{ device: string; part?: string }>()
const point = shallowRef<Item>()
const entry = shallowRef<{ opens: Opens; item: Item }>()
const choosing = shallowRef<{ opens: Opens; item: Item; choices: { value: string; title: string }[] }>()
const over = computed(
  () =>
    entry.value ||
    choosing.value ||
    signing.value ||
    diagnosing.value ||
    point.value ||
    commands.asking.value,
)

// The screen that is open, with what its parameters stand for.
const given = shallowRef<Opens>()
const current = computed(() => {
  const id = route.params.screen as string
  const all = (desk.value?.screens ?? []).filter((s) => !s.role)
  return all.find((s) => s.id === id) ?? all.find((s) => s.home && !s.locked) ?? all.find((s) => !s.locked)
})
// The same one stays itself: another is opened anew, which lets go of what is held.
const main = computed<Opens | undefined>((old) => {
  const s = current.value
  if (!s || s.locked) return undefined
  if (given.value?.screen === s.id) return given.value
  return old?.screen === s.id && !old.args ? old : { screen: s.id }
})
const common = (role: string) => desk.value?.screens.find((s) => s.role === role && !s.locked)
const view = ref<InstanceType<typeof ScreenView>>()
const scale = computed(() => {
  const s = view.value?.scene
  return s ? Math.min(width.value / s.width, height.value / s.height) : 1
})

let clear = 0
function say(text: string, isBad: boolean) {
  message.value = text
  bad.value = isBad
  clearTimeout(clear)
  clear = window.setTimeout(() => (message.value = ''), isBad ? 15000 : 4000)
}
const commands = useCommands(
  () => program.value,
  () => project.value,
  say,
)
const hold = useHold(
  () => program.value,
  () => project.value,
  (why) => say(why, true),
)

const tryLine = computed(() => {
  const on = desk.value?.try?.live ?? []
  return on.length
    ? t('try.live', {
        names: links.value
          .filter((l) => on.includes(l.device))
          .map((l) => l.name)
          .join(', '),
      })
    : t('try.standIns')
})

async function load() {
  try {
    if (!session.me) await session.load()
    if (!session.me?.person || session.me.person.choose) {
      signing.value = { nobody: true }
      return
    }
    if (signing.value?.nobody) signing.value = undefined
    desk.value = await ask(
      api.GET('/api/projects/{project}/desk', {
        params: {
          path: { project: project.value },
          query: { program: program.value, language: language.value },
        },
      }),
    )
  } catch (e) {
    say(sentence(e), true)
  }
}
const recorded = courses(() => project.value)
provideAround({
  now: () => new Date(live.serverNow()),
  person: () => (session.me?.person?.nobody ? t('desk.nobody') : session.me?.person?.name) ?? '',
  screens: (area) =>
    navigation.value.map((s, i) => ({ ...s, id: String(i) })).filter((s) => !area || s.area === area),
  picture: (id) => `/api/projects/${project.value}/pictures/${id}`,
  // What was recorded is the plant's, and not what is tried.
  course: (tag, from, to) => (program.value === 'release' ? recorded(tag, from, to) : Promise.resolve([])),
})

/** The places of the navigation. */
const navigation = computed(() => placesOf(desk.value?.screens ?? []).filter((p) => !p.hidden))
/** Which of them is open. */
const here = computed(() => {
  const places = navigation.value.filter((n) => n.id === current.value?.id)
  const args = view.value?.scene?.args ?? {}
  return places.find((n) => Object.entries(n.opens.args ?? {}).every(([k, v]) => args[k] === v)) ?? places[0]
})
watch(project, load, { immediate: true })
const endNews = live.news(project.value, (n) => (n.release || program.value === 'try') && load())
// What happened while the connection was away: a release, other rights.
const endOpen = live.onOpen(() => session.me?.person && void load())
onUnmounted(() => {
  endNews()
  endOpen()
})
// A session that ended elsewhere: nothing of it stays on the page.
watch(
  () => session.me?.person?.id,
  (person, old) => {
    if (person && (session.me!.person!.nobody || old?.startsWith('panel:'))) return void load()
    if (person || signing.value) return
    desk.value = undefined
    windows.value = []
    signing.value = { nobody: true }
  },
)
useIntervalFn(
  async () => {
    if (session.me?.person)
      links.value = await ask(
        api.GET('/api/projects/{project}/links', {
          params: {
            path: { project: project.value },
            query: { program: program.value === 'try' ? 'draft' : 'release' },
          },
        }),
      ).catch(() => links.value)
  },
  1000,
  { immediateCallback: true },
)

/** Without word from the server the links are not known either. */
const shownLinks = computed(() => {
  const used =
    program.value === 'try'
      ? links.value.filter((l) => desk.value?.try?.live.includes(l.device))
      : links.value
  return silentSince.value ? used.map((l) => ({ ...l, state: 'idle' })) : used
})

useScreenErrors(
  () => project.value,
  () => main.value?.screen ?? '',
)

const {
  board,
  unsure,
  problem: unread,
  listed,
  ringed,
  worstOfTags,
  worstOfPlace,
  actOn,
  openFor,
} = useDeskAlarms(
  project,
  () => program.value,
  () => language.value,
  () => navigation.value,
  go,
  (text) => say(text, true),
)

// What changes under a held button lets it go.
watch([over, listed], ([a, b]) => (a || b) && hold.end('something came in front'))
watch([main, windows, language, program], () => hold.end('the screen changed'))

const may = (right: string) => desk.value?.rights.includes(right) ?? false

/** Does what a person asked of an element of a screen. */
function act(opens: Opens, { item, how, value, by }: Act) {
  const e = item.element
  // With nobody signed in the panel shows and sounds; who wants to act signs in.
  if (session.me?.person?.nobody && changes(item, how)) return void (signing.value = {})
  if (how === 'hold') {
    const stage = viewOf(opens)?.stage()
    return hold.press(opens, e.id, item.node, by!, (on) => stage?.hold(e.id, on))
  }
  if (how === 'go') return void go(navigation.value[Number(value)]!.opens)
  if (how === 'open') return void go(e.opens!)
  if (how === 'press') return press(opens, item)
  if (item.shown.enabled === false) return say(str(item.shown.why) || t('desk.blocked'), true)
  if (how === 'send') return void commands.send({ opens, item, value: value!, says: spoken(item, value!) })
  commands.problem.value = ''
  if (how === 'choose' && e.props.of === 'parameter') {
    const p = sceneOf(opens)?.params?.find((x) => x.id === str(e.props.param))
    if (p?.choices?.length) choosing.value = { opens, item, choices: p.choices }
    return
  }
  entry.value = { opens, item }
}
const views = new Map<string, InstanceType<typeof ScreenView>>()
const keep = (key: string) => (v: unknown) =>
  void (v ? views.set(key, v as InstanceType<typeof ScreenView>) : views.delete(key))
const viewOf = (opens: Opens) =>
  opens === main.value ? view.value : [...views.values()].find((v) => v.scene?.screen === opens.screen)
const sceneOf = (opens: Opens) => viewOf(opens)?.scene

type Step = NonNullable<Item['element']['then']>[number] & { part?: string }

/**
 * A button's steps in their order. What writes or records is one command, whose
 * steps the server carries out; what a button does at the panel follows as far
 * as they went well.
 */
async function press(opens: Opens, item: Item) {
  const p = item.shown
  const action = str(p.action)
  const steps: Step[] = [
    {
      do: action,
      opens: item.element.opens,
      device: str(p.device),
      part: str(p.part),
      language: str(p.language),
      param: str(p.param),
      value: str(p.value),
      by: num(p.by),
    },
    ...(item.element.then ?? []).filter((_, i) => p[`then${i}`] !== false),
  ]
  const follow = (done: number, all: boolean) => {
    let sent = 0
    for (const step of steps) {
      if (!remote.has(step.do)) local(opens, step)
      else if (++sent > done && !all) return
    }
  }
  if (!steps.some((s) => remote.has(s.do))) return follow(0, true)
  await commands.send(
    { opens, item, value: action === 'toggle' ? String(p.on !== true) : '', says: commands.meant(item) },
    follow,
  )
}

/** Whether what is asked of an element would change something beyond this panel. */
function changes(item: Item, how: string): boolean {
  const p = item.shown
  if (how === 'go' || how === 'open' || (how === 'choose' && p.of === 'parameter')) return false
  return (
    p.action === undefined ||
    remote.has(str(p.action)) ||
    how === 'hold' ||
    (item.element.then ?? []).some((s) => remote.has(s.do))
  )
}

/** What a button does at the panel alone. */
function local(opens: Opens, step: Step) {
  if (step.do === 'open' || step.do === 'face') {
    if (step.opens) void go(step.opens)
  } else if (step.do === 'close') windows.value = windows.value.filter((w) => w !== opens)
  else if (step.do === 'diagnose')
    diagnosing.value = step.device ? { device: step.device, part: step.part } : undefined
  else if (step.do === 'signin') signing.value = {}
  else if (step.do === 'language') speak(step.language ?? '')
  else if (step.do === 'param' && step.param) {
    const p = sceneOf(opens)?.params?.find((x) => x.id === step.param)
    const now = sceneOf(opens)?.args?.[step.param] ?? ''
    let next = step.value ?? ''
    if (p?.choices?.length && step.by) {
      const at = p.choices.findIndex((c) => c.value === now)
      next = p.choices[(at + step.by + p.choices.length) % p.choices.length]!.value
    } else if (step.by && Number.isFinite(Number(now))) next = String(Number(now) + step.by)
    give(opens, step.param, next)
  }
}

/** Gives a parameter of an open screen another value. */
function give(opens: Opens, param: string, value: string) {
  const next = { screen: opens.screen, args: { ...sceneOf(opens)?.args, ...opens.args, [param]: value } }
  if (opens === main.value) given.value = next
  else windows.value = windows.value.map((w) => (w === opens ? { ...w, ...next } : w))
}

function speak(code: string) {
  language.value = code === desk.value?.languages[0] ? '' : code
  localStorage.setItem('rr-desk-language', language.value)
  void load()
}
// What is around the screens speaks the screens' language, as far as it can.
watch(
  () => language.value || desk.value?.languages[0] || '',
  (code) => {
    if (code) void inLanguage(code === 'de' ? 'de' : 'en')
  },
  { immediate: true },
)
onUnmounted(() => void inLanguage(settings.language))

let nextWindow = 1
async function go(opens: Opens) {
  const s = desk.value?.screens.find((x) => x.id === opens.screen)
  if (s?.locked) {
    signing.value = { opens, roles: s.roles }
    return
  }
  if (s?.role === 'popup' || s?.role === 'faceplate') {
    const same = JSON.stringify([opens.screen, opens.args])
    if (!windows.value.some((w) => JSON.stringify([w.screen, w.args]) === same))
      windows.value = [...windows.value, { ...opens, key: nextWindow++ }]
    return
  }
  windows.value = []
  given.value = opens.args ? opens : undefined
  await router.push({
    name: program.value === 'try' ? 'try' : 'desk',
    params: { project: project.value, screen: opens.screen },
  })
}
async function signedIn() {
  const to = signing.value?.opens
  signing.value = undefined
  await load()
  if (to) await go(to)
}
async function signOut() {
  await session.signOut()
  windows.value = []
  // A panel may go on showing with nobody signed in.
  if (session.me?.person) return
  desk.value = undefined
  signing.value = { nobody: true }
}
async function enter(text: string) {
  const e = entry.value
  if (!e) return
  await commands.send(
    { opens: e.opens, item: e.item, value: text, says: spoken(e.item, text) },
    (_, all) => all && (entry.value = undefined),
  )
  if (!commands.problem.value) entry.value = undefined
}
const titleOf = (item: Item) => str(item.shown.caption) || item.element.name || item.element.tag?.path || ''
const windowTitle = (key: string) => views.get(key)?.scene?.title || views.get(key)?.scene?.name || ''
const titles = ref(0)
watch(windows, () => nextTick(() => window.setTimeout(() => titles.value++, 150)))

const top = () => windows.value.at(-1)
useDeskKeys({
  blocked: () => !!over.value,
  closeWindow: () => (windows.value = windows.value.slice(0, -1)),
  screens: () => [top() && views.get('w' + top()!.key), view.value, views.get('header'), views.get('footer')],
  places: () => navigation.value.map((n) => n.opens),
  here: () => navigation.value.indexOf(here.value!),
  go: (opens) => void go(opens),
  focusable: () => (windows.value.length ? '.windows [tabindex="0"]' : '.field [tabindex="0"]'),
})
/** Gives a parameter of a window the value that was chosen for it. */
function chooseFor(asked: NonNullable<typeof choosing.value>, value: string) {
  give(asked.opens, str(asked.item.element.props.param), value)
  choosing.value = undefined
}
</script>

<template>
  <div class="desk">
    <div v-if="program === 'try'" class="trying" role="status">
      <strong>{{ $t('try.banner') }}</strong>
      <span>{{ tryLine }}</span>
      <router-link :to="{ name: 'screens', params: { project } }">{{ $t('try.back') }}</router-link>
    </div>
    <DeskBanner
      :title="view?.scene?.title || here?.name || current?.name || desk?.name || ''"
      :links="shownLinks"
      :message="message"
      :bad="bad"
      :engineer="may('engineer') || may('commission')"
      :project="project"
      :languages="desk?.languages ?? []"
      :language="language || desk?.languages[0] || ''"
      @sign-out="signOut"
      @change="signing = { who: $event }"
      @dismiss="message = ''"
      @speak="speak">
      <AlarmBanner
        v-if="session.me?.person"
        :key="session.me.person.name"
        :board="board"
        :unsure="unsure"
        :problem="unread"
        :on="program === 'release'"
        @ack="actOn([$event], 'acknowledged')"
        @open="listed = !listed" />
    </DeskBanner>
    <ScreenView
      v-if="common('header')"
      :ref="keep('header')"
      :program="program"
      :project="project"
      :language="language"
      :opens="{ screen: common('header')!.id }"
      :scale="width / (desk?.width || width || 1)"
      :lost="!!silentSince"
      :alarms="worstOfTags"
      @act="act({ screen: common('header')!.id }, $event)"
      @point="point = $event"
      @drawn="hold.end('the screen was drawn anew')" />
    <div ref="field" class="field" :style="{ background: colour(view?.scene?.background ?? 'field') }">
      <ScreenView
        v-if="main"
        ref="view"
        :ringed="ringed"
        :program="program"
        :project="project"
        :language="language"
        :opens="main"
        :scale="scale"
        :lost="!!silentSince"
        :alarms="worstOfTags"
        @act="act(main, $event)"
        @point="point = $event"
        @drawn="hold.end('the screen was drawn anew')" />
      <div v-if="desk && program === 'try' && !desk.try" class="note">
        <h2>{{ $t('try.ended') }}</h2>
      </div>
      <div v-else-if="desk && !desk.release && program === 'release'" class="note">
        <h2>{{ $t('desk.nothing') }}</h2>
        <p>{{ $t('desk.nothingWhy') }}</p>
      </div>
      <div v-else-if="desk && !current" class="note">
        <h2>{{ $t('desk.noScreens') }}</h2>
      </div>
      <div v-if="view?.problem && !silentSince" class="note" role="alert">{{ view.problem }}</div>
      <div v-if="silentSince && session.me?.person" class="lostnote" role="alert">
        <strong>{{ $t('desk.lost') }}</strong>
        {{ $t('desk.lostSince', { time: moment(silentSince, clock) }) }}
      </div>
      <div v-if="windows.length" class="windows">
        <WindowFrame
          v-for="w in windows"
          :key="w.key"
          :title="(titles, windowTitle('w' + w.key))"
          @close="windows = windows.filter((x) => x !== w)">
          <ScreenView
            :ref="keep('w' + w.key)"
            :program="program"
            :project="project"
            :language="language"
            :opens="w"
            :lost="!!silentSince"
            :alarms="worstOfTags"
            @act="act(w, $event)"
            @point="point = $event"
            @drawn="hold.end('the screen was drawn anew')" />
        </WindowFrame>
      </div>
      <div v-if="point?.element.tag" class="windows front">
        <WindowFrame :title="titleOf(point)" @close="point = undefined">
          <PointCard :id="point.element.tag.id" :project="project" :program="program" />
        </WindowFrame>
      </div>
      <AlarmPanel
        v-if="listed"
        :board="board"
        :unsure="unsure"
        :problem="unread"
        :project="project"
        :sites="desk?.areas ?? []"
        :may-close="may('archive')"
        :may-trail="may('audit')"
        @close="listed = false"
        @act="actOn"
        @open="openFor" />
      <KeyPad
        v-if="entry"
        :title="titleOf(entry.item)"
        :tag="entry.item.element.tag"
        :old="shownOf(entry.item)"
        :problem="commands.problem.value"
        :busy="commands.busy.value"
        @enter="enter"
        @close="entry = undefined" />
      <AskBox
        v-if="commands.asking.value"
        :title="titleOf(commands.asking.value.item)"
        :says="`${shownOf(commands.asking.value.item)} → ${commands.asking.value.says}`"
        :reason="str(commands.asking.value.item.element.props.reason, 'none')"
        :sign="str(commands.asking.value.item.element.props.sign, 'none')"
        :problem="commands.problem.value"
        :busy="commands.busy.value"
        @send="commands.answered"
        @close="commands.asking.value = undefined" />
      <div v-if="choosing" class="signing" @pointerdown.self="choosing = undefined">
        <div class="card choices" role="dialog" :aria-label="titleOf(choosing.item)">
          <button v-for="c in choosing.choices" :key="c.value" @click="chooseFor(choosing, c.value)">
            {{ c.title }}
          </button>
        </div>
      </div>
      <div v-if="diagnosing" class="signing">
        <div class="card wide">
          <LinkDiagnosis
            :project="project"
            :device="diagnosing.device"
            :part="diagnosing.part"
            :program="program === 'try' ? 'draft' : 'release'" />
          <button class="bare later" @click="diagnosing = undefined">{{ $t('notice.close') }}</button>
        </div>
      </div>
      <div v-if="signing" class="signing">
        <div class="card">
          <p v-if="signing.roles?.length" class="quiet">
            {{ $t('desk.locked', { roles: signing.roles.join(', ') }) }}
          </p>
          <SignInForm :done="signedIn" :who="signing.who" />
          <button v-if="session.me?.person" class="bare later" @click="signing = undefined">
            {{ $t('common.cancel') }}
          </button>
        </div>
      </div>
    </div>
    <NoticeLine class="told" />
    <ScreenView
      v-if="common('footer')"
      :ref="keep('footer')"
      :program="program"
      :project="project"
      :language="language"
      :opens="{ screen: common('footer')!.id }"
      :scale="width / (desk?.width || width || 1)"
      :lost="!!silentSince"
      :alarms="worstOfTags"
      @act="act({ screen: common('footer')!.id }, $event)"
      @point="point = $event"
      @drawn="hold.end('the screen was drawn anew')" />
    <DeskNav
      :places="navigation"
      :here="here"
      :areas="desk?.areas ?? []"
      :worst="worstOfPlace"
      :unsure="unsure"
      @go="go($event.opens)" />
  </div>
</template>

<style scoped>
/* Over nothing that is pressed at the foot of a screen. */
.told {
  top: 64px;
  bottom: auto;
  font-size: 16px;
}
.desk {
  height: 100vh;
  display: flex;
  flex-direction: column;
  font-size: 16px;
}
.field {
  flex: 1;
  min-height: 0;
  position: relative;
  overflow: hidden;
  display: grid;
  place-items: start center;
}
.trying {
  display: flex;
  gap: 16px;
  align-items: center;
  padding: 3px 16px;
  background: repeating-linear-gradient(-45deg, var(--c-tint) 0 14px, var(--c-sheet) 14px 28px);
  border-bottom: 2px solid var(--c-spruce);
  font-size: 14px;
}
.trying a {
  margin-left: auto;
  font-weight: 650;
}
.card.wide {
  width: min(900px, 92%);
  max-height: 92%;
  overflow: auto;
}
.note {
  position: absolute;
  top: 34%;
  text-align: center;
  padding: 20px 28px;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
  border-radius: 6px;
}
.lost {
  filter: grayscale(1);
  opacity: 0.35;
}
.field:has(.lost)::after {
  content: '';
  position: absolute;
  inset: 0;
  background-image: repeating-linear-gradient(
    -45deg,
    color-mix(in srgb, var(--c-ink) 32%, transparent) 0 3px,
    transparent 3px 12px
  );
  pointer-events: none;
}
.lostnote {
  position: absolute;
  top: 40%;
  z-index: 15;
  background: var(--c-sheet);
  border: 2px solid var(--c-critical);
  padding: 18px 26px;
  border-radius: 6px;
  font-size: 18px;
}
.signing {
  position: absolute;
  inset: 0;
  background: color-mix(in srgb, var(--c-rail) 45%, transparent);
  display: grid;
  place-items: center;
  z-index: 18;
}
.card {
  width: 400px;
  background: var(--c-sheet);
  border-radius: 6px;
  padding: 22px 28px;
}
.later {
  color: var(--c-spruce);
  min-height: 44px;
}
.field :deep([tabindex]:focus-visible) {
  outline: 3px solid var(--c-spruce);
  outline-offset: 2px;
}
.field :deep([aria-disabled='true']) {
  cursor: not-allowed !important;
}
.windows {
  position: absolute;
  inset: 0;
  display: grid;
  place-items: center;
  pointer-events: none;
  z-index: 10;
}
.windows > * {
  pointer-events: auto;
  grid-area: 1 / 1;
}
.windows.front {
  z-index: 12;
}
.choices {
  display: grid;
  gap: 8px;
}
.choices button {
  min-height: 52px;
  border: 1.5px solid var(--c-ink);
  border-radius: 4px;
  background: var(--c-sheet);
  color: var(--c-ink);
  font-size: 18px;
  cursor: pointer;
}
</style>
