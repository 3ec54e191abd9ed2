<script setup lang="ts">
import { mdiLockOutline } from '@mdi/js'
import { useElementSize, useEventListener, useIntervalFn } from '@vueuse/core'
import { computed, onUnmounted, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type LinkStatus, type Schemas, sentence } from '../api/client'
import { useSession } from '../api/session'
import { str } from '../canvas/element'
import ScreenDefs from '../canvas/ScreenDefs.vue'
import type { Item } from '../canvas/stage'
import { clock, moment } from '../kit/moment'
import LinkDiagnosis from '../links/LinkDiagnosis.vue'
import { commandKey, live } from '../live/live'
import { colour } from '../theme'
import DeskBanner from './DeskBanner.vue'
import KeyPad from './KeyPad.vue'
import SignInForm from './SignInForm.vue'
import { useHold } from './useHold'
import { useScene } from './useScene'

const route = useRoute()
const router = useRouter()
const session = useSession()
const { t } = useI18n()
const project = computed(() => route.params.project as string)
// The same page shows the release to operators and the draft, when it is tried, to engineers.
const program = computed(() => (route.name === 'try' ? 'try' : 'release'))
const diagnosing = ref('')
const desk = shallowRef<Schemas['Desk']>()
const links = shallowRef<LinkStatus[]>([])
const root = ref<SVGGElement>()
const field = ref<HTMLElement>()
const { width, height } = useElementSize(field)
const message = ref('')
const bad = ref(false)
const signing = ref<{ screen?: string; roles?: string[] }>()
const entry = shallowRef<Item>()
const entryProblem = ref('')
const busy = ref(false)

const current = computed(() => {
  const id = route.params.screen as string
  const all = desk.value?.screens ?? []
  return all.find((s) => s.id === id) ?? all.find((s) => s.home && !s.locked) ?? all.find((s) => !s.locked)
})
const screenId = computed(() => (current.value && !current.value.locked ? current.value.id : ''))
const { scene, problem, silentSince, stage } = useScene(() => program.value, project, screenId, root, wire)
const hold = useHold(() => program.value, () => project.value, () => screenId.value, (id, on) => stage()?.hold(id, on), (why) => say(why, true))
const scale = computed(() => (scene.value ? Math.min(width.value / scene.value.width, height.value / scene.value.height) : 1))

const tryLine = computed(() => {
  const live = desk.value?.try?.live ?? []
  return live.length ? t('try.live', { names: links.value.filter((l) => live.includes(l.device)).map((l) => l.name).join(', ') }) : t('try.standIns')
})

let clear = 0
function say(text: string, isBad: boolean) {
  message.value = text
  bad.value = isBad
  clearTimeout(clear)
  clear = window.setTimeout(() => (message.value = ''), isBad ? 15000 : 4000)
}

async function load() {
  try {
    if (!session.me) await session.load()
    if (!session.me?.person) {
      signing.value = {}
      return
    }
    desk.value = await ask(api.GET('/api/projects/{project}/desk', { params: { path: { project: project.value }, query: { program: program.value } } }))
  } catch (e) {
    say(sentence(e), true)
  }
}
watch(project, load, { immediate: true })
const endNews = live.news(project.value, (n) => (n.release || program.value === 'try') && load())
onUnmounted(endNews)
useIntervalFn(async () => {
  if (session.me?.person) links.value = await ask(api.GET('/api/projects/{project}/links', { params: { path: { project: project.value }, query: { program: program.value === 'try' ? 'draft' : 'release' } } })).catch(() => links.value)
}, 1000, { immediateCallback: true })

/** Without word from the server the links are not known either. */
const shownLinks = computed(() => {
  const used = program.value === 'try' ? links.value.filter((l) => desk.value?.try?.live.includes(l.device)) : links.value
  return silentSince.value ? used.map((l) => ({ ...l, state: 'idle' })) : used
})

/** Makes an element answer to pointer and keyboard. */
function wire(item: Item) {
  const e = item.element
  if (e.kind !== 'button' && e.kind !== 'entry') return
  const node = item.node
  node.setAttribute('tabindex', '0')
  node.style.cursor = 'pointer'
  if (e.kind === 'button' && e.props.action === 'hold') {
    node.style.touchAction = 'none'
    node.addEventListener('pointerdown', (ev) => {
      if (ev.button !== 0) return
      node.setPointerCapture(ev.pointerId)
      void hold.press(e.id)
    })
    for (const end of ['pointerup', 'pointercancel', 'lostpointercapture']) node.addEventListener(end, () => hold.letGo('released'))
    node.addEventListener('contextmenu', (ev) => ev.preventDefault())
    node.addEventListener('keydown', (ev) => (ev.key === ' ' || ev.key === 'Enter') && !ev.repeat && (ev.preventDefault(), void hold.press(e.id)))
    node.addEventListener('keyup', () => hold.letGo('released'))
    return
  }
  const act = () => (e.kind === 'entry' ? openEntry(item) : press(item))
  node.addEventListener('click', act)
  node.addEventListener('keydown', (ev) => (ev.key === ' ' || ev.key === 'Enter') && (ev.preventDefault(), act()))
}
const shownOf = (item: Item) => (item.state.level === 'bad' ? '—' : str(item.shown.text) || (item.shown.on === true ? 'on' : item.shown.on === false ? 'off' : ''))

function openEntry(item: Item) {
  if (item.shown.enabled === false) return say(t('desk.blocked'), true)
  entryProblem.value = ''
  entry.value = item
}
const may = (right: string) => desk.value?.rights.includes(right) ?? false

function press(item: Item) {
  const p = item.shown
  if (p.action === 'open') return void go(str(p.screen))
  if (p.action === 'diagnose') return void (diagnosing.value = str(p.device))
  void send(item, p.action === 'toggle' ? String(p.on !== true) : '')
}
async function send(item: Item, value: string) {
  busy.value = true
  const seen = shownOf(item)
  try {
    const out = await ask(api.POST('/api/projects/{project}/writes', {
      params: { path: { project: project.value }, query: { program: program.value } },
      body: { screen: screenId.value, element: item.element.id, value, seen, key: commandKey(), at: Math.round(live.serverNow()) },
    }))
    const name = str(item.element.props.caption) || item.element.name || ''
    say(t('desk.outcome.' + out.outcome, { name, value: out.new, reason: out.reason }), out.outcome !== 'confirmed')
    entry.value = undefined
  } catch (e) {
    if (entry.value) entryProblem.value = sentence(e)
    else say(sentence(e), true)
  } finally {
    busy.value = false
  }
}
async function go(id: string) {
  const s = desk.value?.screens.find((x) => x.id === id)
  if (s?.locked) {
    signing.value = { screen: id, roles: s.roles }
    return
  }
  await router.push({ name: program.value === 'try' ? 'try' : 'desk', params: { project: project.value, screen: id } })
}
async function signedIn() {
  const to = signing.value?.screen
  signing.value = undefined
  await load()
  if (to) await go(to)
}
async function signOut() {
  await session.signOut()
  desk.value = undefined
  signing.value = {}
}
// Panels without touch: arrows go between what can be operated, Ctrl and arrows between screens.
useEventListener('keydown', (e: KeyboardEvent) => {
  if (entry.value || signing.value || diagnosing.value) return
  const forward = e.key === 'ArrowRight' || e.key === 'ArrowDown'
  if (!forward && e.key !== 'ArrowLeft' && e.key !== 'ArrowUp') return
  e.preventDefault()
  if (e.ctrlKey) {
    const open = (desk.value?.screens ?? []).filter((s) => !s.hidden)
    const next = open[(open.findIndex((s) => s.id === screenId.value) + (forward ? 1 : -1) + open.length) % open.length]
    if (next) void go(next.id)
    return
  }
  const all = [...document.querySelectorAll<SVGGElement>('.field [tabindex="0"]')]
  const at = all.indexOf(document.activeElement as unknown as SVGGElement)
  all[(at + (forward ? 1 : -1) + all.length) % all.length]?.focus()
})
</script>

<template>
  <div class="desk">
    <div v-if="program === 'try'" class="trying" role="status"><strong>{{ $t('try.banner') }}</strong><span>{{ tryLine }}</span><router-link :to="{ name: 'screens', params: { project } }">{{ $t('try.back') }}</router-link></div>
    <DeskBanner :title="current?.title || current?.name || desk?.name || ''" :links="shownLinks" :message="message" :bad="bad" :engineer="may('engineer')" :project="project" @sign-out="signOut" @dismiss="message = ''" />
    <div ref="field" class="field" :style="{ background: colour(scene?.background ?? 'field') }">
      <svg v-if="screenId" :width="(scene?.width ?? 0) * scale" :height="(scene?.height ?? 0) * scale" :viewBox="`0 0 ${scene?.width ?? 1} ${scene?.height ?? 1}`" class="screen-svg" :class="{ lost: silentSince }"><ScreenDefs /><g ref="root" /></svg>
      <div v-if="desk && program === 'try' && !desk.try" class="note"><h2>{{ $t('try.ended') }}</h2></div>
      <div v-else-if="desk && !desk.release && program === 'release'" class="note"><h2>{{ $t('desk.nothing') }}</h2><p>{{ $t('desk.nothingWhy') }}</p></div>
      <div v-else-if="desk && !current" class="note"><h2>{{ $t('desk.noScreens') }}</h2></div>
      <div v-if="problem && !silentSince" class="note" role="alert">{{ problem }}</div>
      <div v-if="silentSince && session.me?.person" class="lostnote" role="alert"><strong>{{ $t('desk.lost') }}</strong> {{ $t('desk.lostSince', { time: moment(silentSince, clock) }) }}</div>
      <KeyPad v-if="entry" :title="str(entry.element.props.caption) || entry.element.name || ''" :tag="entry.element.tag" :old="shownOf(entry)" :problem="entryProblem" :busy="busy" @enter="send(entry, $event)" @close="entry = undefined" />
      <div v-if="diagnosing" class="signing"><div class="card wide"><LinkDiagnosis :project="project" :device="diagnosing" :program="program === 'try' ? 'draft' : 'release'" /><button class="bare later" @click="diagnosing = ''">{{ $t('notice.close') }}</button></div></div>
      <div v-if="signing" class="signing"><div class="card">
        <p v-if="signing.roles?.length" class="quiet">{{ $t('desk.locked', { roles: signing.roles.join(', ') }) }}</p>
        <SignInForm :done="signedIn" />
        <button v-if="session.me?.person" class="bare later" @click="signing = undefined">{{ $t('common.cancel') }}</button>
      </div></div>
    </div>
    <nav class="nav" :aria-label="$t('editor.navigation')">
      <button v-for="s in desk?.screens.filter((x) => !x.hidden)" :key="s.id" :class="{ on: s.id === current?.id }" :aria-current="s.id === current?.id ? 'page' : undefined" @click="go(s.id)"><v-icon v-if="s.locked" :icon="mdiLockOutline" size="20" /> {{ s.name }}</button>
    </nav>
  </div>
</template>

<style scoped>
.desk { height: 100vh; display: flex; flex-direction: column; font-size: 16px; }
.field { flex: 1; min-height: 0; position: relative; overflow: hidden; display: grid; place-items: start center; }
.nav { height: 68px; flex: none; display: flex; background: var(--c-rail); padding: 2px; gap: 2px; }
.nav button { flex: 1; border: 0; background: color-mix(in srgb, var(--c-rail-text) 9%, var(--c-rail)); color: var(--c-rail-text); font-size: 17px; font-weight: 600; cursor: pointer; display: flex; align-items: center; justify-content: center; gap: 8px; }
.nav .on { background: var(--c-paper); color: var(--c-ink); box-shadow: inset 0 5px var(--c-rail-accent); }
.trying { display: flex; gap: 16px; align-items: center; padding: 3px 16px; background: repeating-linear-gradient(-45deg, var(--c-tint) 0 14px, var(--c-sheet) 14px 28px); border-bottom: 2px solid var(--c-spruce); font-size: 14px; }
.trying a { margin-left: auto; font-weight: 650; }
.card.wide { width: min(900px, 92%); max-height: 92%; overflow: auto; }
.note { position: absolute; top: 34%; text-align: center; padding: 20px 28px; background: var(--c-sheet); border: 1px solid var(--c-line); border-radius: 6px; }
.lost { filter: grayscale(1); opacity: 0.35; }
.field:has(.lost)::after { content: ''; position: absolute; inset: 0; background-image: repeating-linear-gradient(-45deg, color-mix(in srgb, var(--c-ink) 32%, transparent) 0 3px, transparent 3px 12px); pointer-events: none; }
.lostnote { position: absolute; top: 40%; z-index: 15; background: var(--c-sheet); border: 2px solid var(--c-critical); padding: 18px 26px; border-radius: 6px; font-size: 18px; }
.signing { position: absolute; inset: 0; background: color-mix(in srgb, var(--c-rail) 45%, transparent); display: grid; place-items: center; z-index: 18; }
.card { width: 400px; background: var(--c-sheet); border-radius: 6px; padding: 22px 28px; }
.later { color: var(--c-spruce); min-height: 44px; }
.field :deep([tabindex]:focus-visible) { outline: 3px solid var(--c-spruce); outline-offset: 2px; }
.field :deep([aria-disabled='true']) { cursor: not-allowed !important; }
</style>
