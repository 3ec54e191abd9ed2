<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { sentence } from '../api/client'
import { useSession } from '../api/session'
import { provideAround } from '../canvas/around'
import { clock, moment } from '../kit/moment'
import NoticeLine from '../kit/NoticeLine.vue'
import WindowFrame from '../kit/WindowFrame.vue'
import { live, type Opens } from '../live/live'
import { colour } from '../theme'
import { courses } from '../trend/course'
import AlarmBanner from './AlarmBanner.vue'
import AlarmPanel from './AlarmPanel.vue'
import ControlBox from './ControlBox.vue'
import ControlChip from './ControlChip.vue'
import DeskBar from './DeskBar.vue'
import DeskBanner from './DeskBanner.vue'
import DeskNav from './DeskNav.vue'
import DeskOver from './DeskOver.vue'
import HandoverBox from './HandoverBox.vue'
import ScreenView from './ScreenView.vue'
import SignInForm from './SignInForm.vue'
import { useActs } from './useActs'
import { useBannerLine } from './useBannerLine'
import { useCommands } from './useCommands'
import { useControl } from './useControl'
import { type Signing, useDesk } from './useDesk'
import { useDeskAlarms } from './useDeskAlarms'
import { useDeskKeys } from './useDeskKeys'
import { type Handover, useHandovers } from './useHandovers'
import { useHold } from './useHold'
import { useOpened } from './useOpened'
import { usePanelPage } from './usePanelPage'
import type { Shown } from './useScene'
import { useScreenErrors } from './useScreenErrors'
import WindowLayer from './WindowLayer.vue'

const route = useRoute()
const router = useRouter()
const session = useSession()
const { t } = useI18n()
const project = computed(() => route.params.project as string)
// The same page shows the release to operators and the draft, when it is tried, to engineers.
const program = computed<Shown>(() => (route.name === 'try' ? 'try' : 'release'))
const { message, bad, say } = useBannerLine()
/** That somebody is to sign in: for a screen, in another's place, or since nobody is signed in. */
const signing = ref<Signing>()

const d = useDesk(project, program, signing, say)
const { desk, silentSince, chosen, may, common, places } = d
const opened = useOpened(d, project, program, signing)
const { windows, current, main, here, go, keep, placeOf, view } = opened
const commands = useCommands(
  () => program.value,
  () => project.value,
  () => d.language.value,
  say,
)
const hold = useHold(
  () => program.value,
  () => project.value,
  (why) => say(why, true),
)
const acts = useActs(d, opened, signing, commands, hold, say)
const { act, over, point } = acts
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
  () => chosen.value,
  () => places.value,
  go,
  (text) => say(text, true),
)

const handovers = useHandovers(project, () => may('operate'))
/** A note that is being taken over, or one that is being left. */
const handing = shallowRef<Handover | 'leave'>()
/** Who acts where one place at a time does; nobody does so on what is tried. */
const control = useControl(project, (text, bad) => say(text, bad))
const controlling = ref(false)

const field = ref<HTMLElement>()
const { width, height } = useElementSize(field)
const scale = computed(() => {
  const s = view.value?.scene
  return s ? Math.min(width.value / s.width, height.value / s.height) : 1
})
/** What every screen of the page has in common. */
const drawn = computed(() => ({
  program: program.value,
  project: project.value,
  language: chosen.value,
  lost: !!silentSince.value,
  alarms: worstOfTags.value,
}))
/** What a screen of the page tells. */
const heard = (opens: Opens) => ({
  act: (a: Parameters<typeof act>[1]) => act(opens, a),
  point: (item: NonNullable<typeof point.value>) => void (point.value = item),
  drawn: () => hold.end('the screen was drawn anew'),
})

const recorded = courses(() => project.value)
provideAround({
  now: () => new Date(live.serverNow()),
  person: () => (session.me?.person?.nobody ? t('desk.nobody') : session.me?.person?.name) ?? '',
  screens: (area) =>
    places.value.map((s, i) => ({ ...s, id: String(i) })).filter((s) => !area || s.area === area),
  picture: (id) => `/api/projects/${project.value}/pictures/${id}`,
  // What was recorded is the plant's, and not what is tried.
  course: (tag, from, to) => (program.value === 'release' ? recorded(tag, from, to) : Promise.resolve([])),
})
usePanelPage(() => hold.held() || commands.busy.value)
useScreenErrors(
  () => project.value,
  () => main.value?.screen ?? '',
)

// What changes under a held button lets it go.
watch(
  [over, listed, handing, controlling],
  (covers) => covers.some(Boolean) && hold.end('something came in front'),
)
watch([main, windows, chosen, program], () => hold.end('the screen changed'))

// A session that ended elsewhere: nothing of it stays on the page.
watch(
  () => session.me?.person?.id,
  (person, old) => {
    if (person && (session.me!.person!.nobody || old?.startsWith('panel:'))) return void d.load()
    if (person || signing.value) return
    windows.value = []
    handing.value = undefined
    controlling.value = false
    d.close()
  },
)
async function signedIn() {
  const asked = signing.value
  await d.load()
  if (asked?.opens) await go(asked.opens)
  // A screen that is closed to this person, too, asks anew.
  if (signing.value === asked) signing.value = undefined
}
// A screen that is closed to who is here now says so, however it came to be open.
watch(
  () => (current.value?.locked ? current.value.id : ''),
  (id) => {
    if (id && !signing.value) signing.value = { opens: { screen: id }, roles: current.value!.roles }
  },
)
// Who signed in for one screen is gone as it is left: another one, or its window closed.
const shows = computed(() => [current.value?.id, ...windows.value.map((w) => w.screen)])
watch([() => session.me?.person?.visit, shows, signing], async ([visit, open, busy]) => {
  if (!visit || busy || !desk.value || open.includes(visit)) return
  await session.endVisit().catch((e) => say(sentence(e), true))
  await d.load()
})
async function endLookAs() {
  await session.endLookAs()
  await router.push({ name: 'people', params: { project: project.value } })
}
async function signOut() {
  await session.signOut()
  windows.value = []
  // A panel may go on showing with nobody signed in.
  if (!session.me?.person) d.close()
}

useDeskKeys({
  blocked: () => over.value,
  closeWindow: () => (windows.value = windows.value.slice(0, -1)),
  screens: opened.inOrder,
  places: () => places.value.map((n) => n.opens),
  here: () => places.value.indexOf(here.value!),
  go: (opens) => void go(opens),
  focusable: () => (windows.value.length ? '.windows [tabindex="0"]' : '.field [tabindex="0"]'),
})
</script>

<template>
  <div class="desk">
    <div v-if="program === 'try'" class="trying" role="status">
      <strong>{{ $t('try.banner') }}</strong>
      <span>{{ d.tryLine.value }}</span>
      <router-link :to="{ name: 'screens', params: { project } }">{{ $t('try.back') }}</router-link>
    </div>
    <div v-if="session.me?.person?.as" class="trying" role="status">
      <strong>
        {{ $t('lookAs.banner', { role: session.me.person.as.role }) }}
        <template v-if="session.me.person.as.area">
          {{ $t('lookAs.in', { area: session.me.person.as.area }) }}
        </template>
      </strong>
      <span>{{ $t('lookAs.nothing') }}</span>
      <button class="bare" @click="endLookAs">{{ $t('lookAs.end') }}</button>
    </div>
    <DeskBanner
      :title="view?.scene?.title || here?.name || current?.name || desk?.name || ''"
      :links="d.links.value"
      :message="message"
      :bad="bad"
      :engineer="may('engineer') || may('commission')"
      :project="project"
      :languages="desk?.languages ?? []"
      :language="d.language.value"
      :operates="may('operate') && program === 'release'"
      @hand-over="handing = 'leave'"
      @sign-out="signOut"
      @change="signing = { who: $event }"
      @dismiss="message = ''"
      @speak="d.speak">
      <AlarmBanner
        v-if="session.me?.person"
        :key="session.me.person.name"
        :board="board"
        :unsure="unsure"
        :problem="unread"
        :on="program === 'release'"
        @ack="actOn([$event], 'acknowledged')"
        @open="listed = !listed" />
      <ControlChip
        v-if="program === 'release' && control.mine.value.length"
        :list="control.mine.value"
        :area="current?.area ?? ''"
        @open="controlling = true" />
    </DeskBanner>
    <template v-if="program === 'release'">
      <DeskBar v-if="control.asked.value">
        <strong>{{ $t('control.askedFor', { area: control.asked.value.name }) }}</strong>
        {{ control.asked.value.asks!.name }} {{ control.asked.value.asks!.panel }}
        <template #acts>
          <button @click="control.answer(control.asked.value, true)">{{ $t('control.do.give') }}</button>
          <button @click="control.answer(control.asked.value, false)">{{ $t('control.do.keep') }}</button>
        </template>
      </DeskBar>
      <DeskBar v-if="handovers.waiting.value">
        <strong>{{ $t('handover.from', { name: handovers.waiting.value.name }) }}</strong>
        {{ handovers.waiting.value.text }}
        <template #acts>
          <button @click="handing = handovers.waiting.value">{{ $t('handover.read') }}</button>
        </template>
      </DeskBar>
    </template>
    <ControlBox v-if="controlling" :control="control" @close="controlling = false" />
    <HandoverBox
      v-if="handing"
      :handovers="handovers"
      :taking="handing === 'leave' ? undefined : handing"
      @close="handing = undefined" />
    <ScreenView
      v-if="common('header')"
      :ref="keep('header')"
      v-bind="drawn"
      :opens="{ screen: common('header')!.id }"
      :scale="width / (desk?.width || width || 1)"
      v-on="heard({ screen: common('header')!.id })" />
    <div ref="field" class="field" :style="{ background: colour(view?.scene?.background ?? 'field') }">
      <ScreenView
        v-if="main"
        :ref="keep('main')"
        v-bind="drawn"
        :ringed="ringed"
        :opens="main"
        :scale="scale"
        v-on="heard(main)" />
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
      <WindowLayer v-if="windows.length">
        <WindowFrame v-for="w in windows" :key="w.key" :title="opened.titleOf(w)" @close="opened.close(w)">
          <ScreenView :ref="keep(placeOf(w))" v-bind="drawn" :opens="w" v-on="heard(w)" />
        </WindowFrame>
      </WindowLayer>
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
      <DeskOver :project="project" :program="program" :acts="acts" :commands="commands" />
      <div v-if="signing" class="signing">
        <div class="card">
          <p v-if="signing.roles?.length" class="quiet">
            {{ $t('desk.locked', { roles: signing.roles.join(', ') }) }}
          </p>
          <SignInForm :done="signedIn" :who="signing.who" :screen="signing.opens?.screen" />
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
      v-bind="drawn"
      :opens="{ screen: common('footer')!.id }"
      :scale="width / (desk?.width || width || 1)"
      v-on="heard({ screen: common('footer')!.id })" />
    <DeskNav
      :places="places"
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
.trying a,
.trying button {
  margin-left: auto;
  font-weight: 650;
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
</style>
