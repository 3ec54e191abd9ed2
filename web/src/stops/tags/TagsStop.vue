<script setup lang="ts">
import { mdiFilterVariant, mdiPlus, mdiTrayArrowDown } from '@mdi/js'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, ref, toRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import type { TagRow } from '../../api/client'
import ValueCell from '../../kit/ValueCell.vue'
import { live } from '../../live/live'
import { useTagValues } from '../../live/useTagValues'
import { freshId, useProject } from '../../rail/project'
import { useSettings } from '../../kit/settings'
import FolderTree from './FolderTree.vue'
import ImportPanel from './ImportPanel.vue'
import TagInspector from './TagInspector.vue'
import { useTagList, type Only, type Sort } from '../../tags/useTagList'

const project = useProject()
const settings = useSettings()
const route = useRoute()
const router = useRouter()
const { t } = useI18n()
const list = useTagList()
const importing = ref(false)
const scroller = ref<HTMLElement>()
const selected = computed(() => (route.params.id as string) || '')
const picked = ref(new Set<string>())

const virtual = useVirtualizer(computed(() => ({ count: list.total.value, getScrollElement: () => scroller.value ?? null, estimateSize: () => 32, overscan: 12 })))
const rows = computed(() => virtual.value.getVirtualItems())
watch(rows, (r) => r.length && list.need(r[0]!.index, r[r.length - 1]!.index), { immediate: true })
const shown = computed(() => rows.value.flatMap((v) => {
  const r = list.row(v.index)
  return r ? [{ v, r }] : []
}))
const ids = computed(() => shown.value.map(({ r }) => r.tag.id).sort())
const values = useTagValues(toRef(project, 'id'), ids)
const folderPath = ref('')

const go = (id: string) => router.replace({ name: 'tags', params: { project: project.id, id } })
function pick(r: TagRow, e: MouseEvent | KeyboardEvent) {
  if (e.ctrlKey || e.metaKey) {
    const next = new Set(picked.value)
    if (!next.delete(r.tag.id)) next.add(r.tag.id)
    picked.value = next
  } else picked.value = new Set([r.tag.id])
  void go(r.tag.id)
}
function move(by: number) {
  const all = list.total.value
  let at = -1
  for (let i = 0; i < all && at < 0; i++) if (list.row(i)?.tag.id === selected.value) at = i
  const next = Math.max(0, Math.min(all - 1, at + by))
  const r = list.row(next)
  if (!r) return
  picked.value = new Set([r.tag.id])
  void go(r.tag.id)
  virtual.value.scrollToIndex(next)
}
function drag(r: TagRow, e: DragEvent) {
  const tags = picked.value.has(r.tag.id) ? [...picked.value] : [r.tag.id]
  e.dataTransfer?.setData('application/x-rr-tags', JSON.stringify(tags))
}
function age(id: string) {
  const v = values.get(id)
  if (!v || v.level === 'bad' || !v.at) return ''
  const s = Math.max(0, (live.serverNow() - v.at) / 1000)
  return s < 90 ? s.toFixed(1) + ' s' : s < 5400 ? Math.round(s / 60) + ' min' : Math.round(s / 3600) + ' h'
}
function from(r: TagRow) {
  return r.tag.source === 'device' ? project.deviceName(r.tag.device) || t('tags.noDevice') : t('source.' + r.tag.source)
}
const chips: Only[] = ['bad', 'findings', 'unused', 'writable']
const sortBy = (s: Sort) => {
  const f = list.filter.value
  list.filter.value = { ...f, sort: s, down: f.sort === s && !f.down }
}

async function add() {
  const id = freshId('tag')
  let n = 1
  const taken = new Set(list.loaded.value.map((r) => r.path.toLowerCase()))
  const prefix = folderPath.value ? folderPath.value + '.' : ''
  while (taken.has((prefix + 'NewTag' + n).toLowerCase())) n++
  const value = { name: 'NewTag' + n, folder: list.filter.value.folder || undefined, type: 'INT', source: 'internal' }
  if (!(await project.edit(t('tags.added'), [{ kind: 'tag', id, path: '', value }]))) await go(id)
}
async function remove() {
  const gone = [...picked.value]
  if (!gone.length) return
  // Away from it first, so that whoever goes on meanwhile is not called back.
  const was = selected.value
  picked.value = new Set()
  await router.replace({ name: 'tags', params: { project: project.id } })
  const refused = await project.edit(t('tags.deleted', { n: gone.length }), gone.map((id) => ({ kind: 'tag', id, path: '' })))
  if (refused && was) await go(was)
}
</script>

<template>
  <div class="split">
    <FolderTree v-model="list.filter.value.folder" :style="{ width: settings.treeWidth + 'px' }" @path="folderPath = $event" />
    <section class="stop">
      <div class="stop-head">
        <h1>{{ $t('stop.tags') }}</h1><span class="quiet">{{ folderPath ? $t('tags.lineIn', { n: list.total.value, folder: folderPath }) : $t('tags.line', { n: list.total.value }) }}</span><span class="grow" />
        <v-btn variant="outlined" :prepend-icon="mdiTrayArrowDown" @click="importing = true">{{ $t('tags.bringIn') }}</v-btn>
        <v-btn color="primary" :prepend-icon="mdiPlus" @click="add">{{ $t('tags.add') }}</v-btn>
        <div class="filters">
          <label class="filter"><v-icon :icon="mdiFilterVariant" size="16" /><input v-model="list.filter.value.text" class="mono" :placeholder="$t('tags.filter')" :aria-label="$t('tags.filter')" /></label>
          <button v-for="c in chips" :key="c" class="chip" :class="{ on: list.filter.value.only === c }" :aria-pressed="list.filter.value.only === c" @click="list.filter.value.only = list.filter.value.only === c ? '' : c">{{ $t('tags.only.' + c) }}</button>
        </div>
      </div>
      <ImportPanel v-if="importing" @close="importing = false" />
      <div v-show="!importing" ref="scroller" class="list" tabindex="0" role="grid" :aria-rowcount="list.total.value" @keydown.down.prevent="move(1)" @keydown.up.prevent="move(-1)" @keydown.page-down.prevent="move(20)" @keydown.page-up.prevent="move(-20)" @keydown.delete="remove">
        <div class="tr th" role="row">
          <span class="c-state" /><button class="bare c-name" @click="sortBy('path')">{{ folderPath ? $t('tags.nameIn', { folder: folderPath }) : $t('tags.path') }}</button><button class="bare c-type" @click="sortBy('type')">{{ $t('tags.type') }}</button><span class="c-from">{{ $t('tags.from') }}</span>
          <button class="bare c-addr" @click="sortBy('address')">{{ $t('tags.address') }}</button><span class="c-value">{{ $t('tags.value') }}</span><span class="c-unit" /><span class="c-age">{{ $t('tags.age') }}</span><button class="bare c-used" @click="sortBy('uses')">{{ $t('tags.used') }}</button>
        </div>
        <div v-if="!list.total.value" class="empty"><h2>{{ $t('tags.empty') }}</h2><p>{{ $t('tags.emptyWhy') }}</p></div>
        <div class="space" :style="{ height: virtual.getTotalSize() + 'px' }">
          <div v-for="{ v, r } in shown" :key="v.index"
            class="tr" role="row" draggable="true" :class="{ on: selected === r.tag.id || picked.has(r.tag.id) }" :style="{ transform: `translateY(${v.start}px)` }"
            @click="pick(r, $event)" @dragstart="drag(r, $event)"
          >
            <span class="c-state"><span v-if="r.severity" class="dot" :class="r.severity" :title="$t('tags.hasFinding')">!</span></span>
            <span class="c-name mono" :title="r.path">{{ folderPath && r.path.startsWith(folderPath + '.') ? r.path.slice(folderPath.length + 1) : r.path }}</span>
            <span class="c-type mono small">{{ r.tag.type }}</span>
            <span class="c-from">{{ from(r) }}</span>
            <span class="c-addr mono quiet" :title="r.tag.formula || r.reference">{{ r.tag.address || r.tag.formula || r.tag.initial }}</span>
            <span class="c-value"><ValueCell :value="values.get(r.tag.id)" /></span>
            <span class="c-unit">{{ r.tag.unit }}</span>
            <span class="c-age mono small quiet" :title="values.get(r.tag.id)?.reason">{{ values.get(r.tag.id)?.level === 'bad' ? values.get(r.tag.id)!.reason : age(r.tag.id) }}</span>
            <span class="c-used mono small">{{ r.uses || '' }}</span>
          </div>
        </div>
      </div>
    </section>
    <TagInspector v-if="selected && !importing" :id="selected" :key="selected" @remove="remove" />
  </div>
</template>

<style scoped>
.split { display: flex; height: 100%; }
.split > .stop { flex: 1; min-width: 0; }
.filters { display: flex; gap: 8px; width: 100%; align-items: center; }
.filter { display: flex; align-items: center; gap: 6px; border: 1px solid var(--c-line); border-radius: 4px; background: var(--c-sheet); padding: 0 8px; flex: 0 1 280px; min-height: 32px; }
.filter input { border: 0; outline: 0; background: none; color: inherit; width: 100%; font-size: 13px; }
.filter:focus-within { outline: 2px solid var(--c-spruce); outline-offset: -1px; }
.list { flex: 1; overflow: auto; position: relative; outline-offset: -2px; }
.space { position: relative; }
.tr { display: grid; grid-template-columns: 22px minmax(134px, 1.5fr) 58px 70px minmax(92px, 1fr) 86px 46px 58px 34px; align-items: center; height: 32px; border-bottom: 1px solid var(--c-line); padding-right: 10px; gap: 5px; box-sizing: border-box; }
.space .tr { position: absolute; left: 0; right: 0; cursor: pointer; }
.tr > * { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.th { position: sticky; top: 0; background: var(--c-sheet); z-index: 1; font-size: 12px; color: var(--c-quiet); }
.space .tr:hover { background: color-mix(in srgb, var(--c-tint) 45%, transparent); }
.space .tr.on { background: var(--c-tint); box-shadow: inset 3px 0 var(--c-spruce); }
.c-value, .c-age, .c-used { text-align: right; }
.space .c-addr { font-size: 13px; }
.small { font-size: 12px; }
.dot { display: inline-grid; place-items: center; width: 16px; height: 16px; border-radius: 50%; font-weight: 700; font-size: 11px; color: #fff; background: var(--c-warning); margin-left: 6px; }
.dot.error { background: var(--c-critical); }
</style>
