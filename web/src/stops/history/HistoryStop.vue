<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed, shallowRef, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type Schemas } from '../../api/client'
import FormulaInput from '../../kit/FormulaInput.vue'
import { useNotice } from '../../kit/problem'
import { freshId, useProject } from '../../rail/project'
import TagPane from '../../tags/TagPane.vue'
import type { ViewPen } from '../../trend/pens'
import TrendView from '../../trend/TrendView.vue'
import KeepView from './KeepView.vue'
import LogList from './LogList.vue'
import LogPage from './LogPage.vue'
import LogSide from './LogSide.vue'
import { useLogs } from '../../logs/useLogs'
import ViewList from './ViewList.vue'

// What the plant did: any tag over any time, with nothing to set up before, and
// choices of pens that are kept by name.
const project = useProject()
const notice = useNotice()
const route = useRoute()
const router = useRouter()
const { t } = useI18n({ useScope: 'global' })
const MOST = 40
const last = useLocalStorage<Record<string, string[]>>('rr-trend', {})

const views = shallowRef<Schemas['ViewShown'][]>([])
async function load() {
  if (!project.id) return
  const params = { path: { project: project.id }, query: { program: 'draft' as const } }
  views.value = await ask(api.GET('/api/projects/{project}/trend/views', { params })).catch((e) => {
    notice.refuse(e)
    return views.value
  })
}
watch([() => project.id, () => project.versionOf('view', 'type', 'equipment', 'paths')], load, {
  immediate: true,
})
const view = computed(() => views.value.find((v) => v.id === route.params.id))
const opened = computed(() => view.value?.for.find((f) => f.id === route.query.of) ?? view.value?.for[0])

/** What was changed of the pens of the view that is open, and is not kept. */
const changed = shallowRef<ViewPen[]>()
watch([() => route.params.id, () => route.query.of], () => (changed.value = undefined))
const loose = computed<ViewPen[]>(() => {
  const listed =
    typeof route.query.tags === 'string'
      ? route.query.tags.split(',').filter(Boolean)
      : (last.value[project.id] ?? [])
  // A mark before a tag's id inverts its row.
  return listed.map((text) => (text[0] === '!' ? { tag: text.slice(1), inverted: true } : { tag: text }))
})
const pens = computed<ViewPen[]>({
  get: () => changed.value ?? (route.params.id ? (opened.value?.pens ?? []) : loose.value),
  set: (list) => {
    const most = list.slice(0, MOST)
    changed.value = most
    if (route.params.id) return
    const tags = most.map((p) => (p.inverted ? '!' : '') + p.tag)
    last.value = { ...last.value, [project.id]: tags }
    void router.replace({ query: { ...route.query, tags: tags.join(',') } })
  },
})
const taken = computed(() => new Set(pens.value.map((p) => p.tag)))
const kept = computed(() => project.overview?.stops.find((s) => s.stop === 'history')?.things ?? 0)
function take(id: string) {
  pens.value = taken.value.has(id) ? pens.value.filter((p) => p.tag !== id) : [...pens.value, { tag: id }]
}

const { logs, act, drop } = useLogs(
  () => project.id,
  'draft',
  () => project.versionOf('log', 'folder', 'type', 'equipment', 'paths'),
)
const page = useTemplateRef('page')
const log = computed(() => logs.value.find((l) => l.id === route.params.id))
/** A span that the address names is shown as its log is there. */
watch(
  [() => route.query.span, () => log.value?.id, page],
  async ([seq, id, shown]) => {
    if (!seq || !id || !shown) return
    const params = { path: { project: project.id, id }, query: { before: Number(seq) + 1 } }
    const list = await ask(api.GET('/api/projects/{project}/logs/{id}/spans', { params })).catch(() => [])
    if (list[0]?.seq === Number(seq)) shown.show(list[0])
  },
  { flush: 'post', immediate: true },
)
async function makeLog() {
  const id = freshId('log')
  const name = t('log.fresh', { n: logs.value.length + 1 })
  const value = { name, picks: [], how: { way: 'changes' }, while: {}, keep: { days: 30 }, spans: {} }
  const refused = await project.edit(t('log.made', { name }), [{ kind: 'log', id, path: '', value }])
  if (!refused) open(id)
}

/** An alarm of what was looked for; what it would have done is shown at once. */
async function makeAlarm(condition: string, least: number, from: number) {
  const id = freshId('alarm')
  const name = t('trend.find.alarmed', { condition }).slice(0, 80)
  const value = { name, kind: 'formula', condition, onDelay: least, priority: 'low', message: '' }
  if (await project.edit(t('alarms.added', { n: 1 }), [{ kind: 'alarm', id, path: '', value }])) return
  const play = Math.ceil((Date.now() - from) / 3_600_000)
  void router.push({ name: 'alarms', params: { project: project.id, id }, query: { play } })
}

/** A view of one's own is no edit, of which one would hear. */
async function shown(id: string, of?: string) {
  await load()
  open(id, of)
}
const trend = useTemplateRef('trend')
const keeping = shallowRef(false)
function open(id?: string, of?: string) {
  changed.value = undefined
  keeping.value = false
  void router.push({ name: 'history', params: { project: project.id, id }, query: of ? { of } : {} })
}
async function remove() {
  const v = view.value!
  if (v.mine) {
    const params = { path: { project: project.id, id: v.id } }
    await ask(api.DELETE('/api/projects/{project}/trend/own-views/{id}', { params })).catch(notice.refuse)
    await load()
    return open()
  }
  if (!(await project.edit(t('history.removed', { name: v.name }), [{ kind: 'view', id: v.id, path: '' }])))
    open()
}
</script>

<template>
  <section class="stop">
    <div class="stop-head">
      <h1>{{ $t('stop.history') }}</h1>
      <span v-if="log" class="mono">{{ log.name }}</span>
      <span v-else-if="view" class="mono">{{ view.name }}{{ opened?.path ? ' · ' + opened.path : '' }}</span>
      <span v-else class="quiet">{{ $t('history.kept.tags', { n: kept }) }}</span>
      <span class="grow" />
      <template v-if="view">
        <button v-if="changed" class="chip" @click="changed = undefined">{{ $t('history.asKept') }}</button>
        <button class="chip" @click="remove">{{ $t('history.remove') }}</button>
        <button class="chip" @click="open()">{{ $t('history.leave') }}</button>
      </template>
      <button v-if="log" class="chip" @click="open()">{{ $t('history.leave') }}</button>
      <button v-else-if="pens.length" class="chip" @click="keeping = true">{{ $t('history.keep') }}</button>
    </div>
    <div class="halves">
      <div class="side">
        <ViewList :views="views" :open="view?.id" :of="opened?.id" @open="open" />
        <LogList :logs="logs" :open="log?.id" @open="open" @make="makeLog" />
        <LogSide
          v-if="log"
          :log="log"
          :drawn="page?.drawn"
          @toggle="page?.toggle($event)"
          @show="page?.show($event)"
          @compare="page?.compare($event)" />
        <TagPane v-else class="tags" :taken="taken" @take="take" />
      </div>
      <LogPage
        v-if="log"
        ref="page"
        :key="log.id"
        :log="log"
        @act="(what, text) => act(log!.id, what, text)"
        @drop="drop(log!.id, $event)" />
      <TrendView
        v-else
        :key="view?.id ?? ''"
        ref="trend"
        v-model:pens="pens"
        class="view"
        :shows="view?.span ? view.span * 1000 : undefined"
        program="draft"
        :project="project.id"
        :title="view && [view.name, opened?.path].filter(Boolean).join(' · ')"
        alarms
        @alarm="makeAlarm">
        <template v-if="!kept" #empty>
          {{ $t('history.empty.none') }}
          <router-link :to="{ name: 'tags', params: { project: project.id } }">
            {{ $t('history.empty.bring') }}
          </router-link>
        </template>
        <template #condition="{ value, set }">
          <FormulaInput
            :label="$t('trend.find.condition')"
            :model-value="value"
            :placeholder="$t('trend.find.hint')"
            wants="bool"
            @update:model-value="set" />
        </template>
      </TrendView>
    </div>
    <KeepView
      v-if="keeping"
      :pens="pens"
      :span="trend?.length ?? 0"
      :was="view"
      @close="keeping = false"
      @kept="shown" />
  </section>
</template>

<style scoped>
.halves {
  display: flex;
  flex: 1;
  min-height: 0;
}
.side {
  width: 236px;
  flex: none;
  display: flex;
  flex-direction: column;
  min-height: 0;
  border-right: 1px solid var(--c-line);
  background: var(--c-sheet);
}
.tags {
  flex: 1 1 200px;
  min-height: 0;
}
.view {
  flex: 1;
}
.grow {
  flex: 1;
}
</style>
