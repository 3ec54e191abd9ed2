<script setup lang="ts">
import { useVirtualizer, type VirtualItem } from '@tanstack/vue-virtual'
import { refDebounced, useDebounceFn } from '@vueuse/core'
import { computed, nextTick, ref, toRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Op, TagRow } from '../../api/client'
import { useNotice } from '../../kit/problem'
import ValueCell from '../../kit/ValueCell.vue'
import { live } from '../../live/live'
import { useTagValues } from '../../live/useTagValues'
import { useProject } from '../../rail/project'
import type { useTagList } from '../../tags/useTagList'
import { columns, shownColumns, type Column } from './columns'
import { word } from '../../i18n/word'

// The list: a grid of cells that is worked by keyboard. Arrows go from cell to
// cell, typing or F2 edits, Enter goes on below, a paste fills cells.
const props = defineProps<{
  list: ReturnType<typeof useTagList>
  selected: string
  picked: Set<string>
  folder: string
}>()
const emit = defineEmits<{ pick: [ids: string[], current: string]; remove: [] }>()
const project = useProject()
const notice = useNotice()
const { t } = useI18n()
const scroller = ref<HTMLElement>()
const shown = computed(() => columns.filter((c) => shownColumns.value.includes(c.key)))
const template = computed(() => '22px ' + shown.value.map((c) => c.width).join(' '))

const virtual = useVirtualizer(
  computed(() => ({
    count: props.list.total.value,
    getScrollElement: () => scroller.value ?? null,
    estimateSize: () => 32,
    overscan: 12,
  })),
)
const items = computed(() => virtual.value.getVirtualItems())
// Rows are asked for a page ahead, and while the list flies past not for each.
const AHEAD = 60
const ask = useDebounceFn(
  (r: VirtualItem[]) =>
    r.length &&
    props.list.need(
      Math.max(0, r[0]!.index - AHEAD),
      Math.min(props.list.total.value - 1, r[r.length - 1]!.index + AHEAD),
    ),
  40,
  { maxWait: 120 },
)
watch(items, ask, { immediate: true })
const rows = computed(() =>
  items.value.flatMap((v) => {
    const r = props.list.row(v.index)
    return r ? [{ v, r }] : []
  }),
)
const ids = computed(() => rows.value.map(({ r }) => r.tag.id).sort())
// A row that scrolls out of sight gives its element to the one that comes in:
// altering a row is several times quicker than making one.
const slots = ref(0)
watch(items, (r) => (slots.value = Math.max(slots.value, r.length)), { immediate: true })
const values = useTagValues(toRef(project, 'id'), refDebounced(ids, 50, { maxWait: 200 }))

const cell = ref(0) // column of the present cell
const anchor = ref(-1) // row from which Shift selects
const editing = ref<{ id: string; text: string }>()

const at = () => props.list.place(props.selected)
function go(index: number, range = false) {
  const to = Math.max(0, Math.min(props.list.total.value - 1, index))
  const r = props.list.row(to)
  if (!r) return
  if (range && anchor.value >= 0) {
    const [a, b] = [Math.min(anchor.value, to), Math.max(anchor.value, to)]
    emit(
      'pick',
      Array.from({ length: b - a + 1 }, (_, i) => props.list.row(a + i)?.tag.id ?? '').filter(Boolean),
      r.tag.id,
    )
  } else {
    anchor.value = to
    emit('pick', [r.tag.id], r.tag.id)
  }
  virtual.value.scrollToIndex(to)
}
function click(r: TagRow, index: number, column: number, e: MouseEvent) {
  cell.value = column
  if (e.shiftKey) return go(index, true)
  if (e.ctrlKey || e.metaKey) {
    const next = new Set(props.picked)
    if (!next.delete(r.tag.id)) next.add(r.tag.id)
    anchor.value = index
    return emit('pick', [...next], r.tag.id)
  }
  go(index)
}
function begin(r: TagRow | undefined, text?: string) {
  const c = shown.value[cell.value]
  if (!r || !c) return
  if (!c.text)
    return notice.refuse(new Error(t('tags.notEditedHere', { column: t(word('tags.column', c.key)) })))
  editing.value = { id: r.tag.id, text: text ?? c.text(r) }
  void nextTick(() => {
    const el = scroller.value?.querySelector<HTMLInputElement>('input.cell')
    el?.focus()
    if (text === undefined) el?.select()
  })
}
async function commit(move: 'down' | 'right' | '') {
  const e = editing.value
  const c = shown.value[cell.value]
  const i = e ? props.list.place(e.id) : -1
  const r = props.list.row(i)
  editing.value = undefined
  scroller.value?.focus()
  if (!e || !c?.ops || !r) return
  if (e.text !== c.text!(r)) {
    const ops = c.ops(r, e.text)
    if (typeof ops === 'string') return notice.refuse(new Error(t('tags.notANumber', { text: ops })))
    if (await project.edit(t('tags.edited', { name: r.path }), ops)) return
  }
  if (move === 'down') go(i + 1)
  if (move === 'right') step(1)
}
function step(by: number) {
  cell.value = Math.max(0, Math.min(shown.value.length - 1, cell.value + by))
}
async function key(e: KeyboardEvent) {
  if (editing.value) return
  const i = at()
  const moves: Record<string, number> = { ArrowDown: 1, ArrowUp: -1, PageDown: 20, PageUp: -20 }
  if (e.key in moves) go((i < 0 ? -1 : i) + moves[e.key]!, e.shiftKey)
  else if (e.key === 'Home') go(0, e.shiftKey)
  else if (e.key === 'End') go(props.list.total.value - 1, e.shiftKey)
  else if (e.key === 'ArrowRight' || (e.key === 'Tab' && !e.shiftKey && cell.value < shown.value.length - 1))
    step(1)
  else if (e.key === 'ArrowLeft' || (e.key === 'Tab' && e.shiftKey && cell.value > 0)) step(-1)
  else if (e.key === 'F2' || e.key === 'Enter') begin(props.list.row(i))
  else if (e.key === 'Delete') emit('remove')
  else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'a')
    emit('pick', await props.list.ids(), props.selected)
  else if (e.key.length === 1 && !e.ctrlKey && !e.metaKey && !e.altKey)
    return begin(props.list.row(i), '') // the key itself is typed into the cell
  else return
  e.preventDefault()
}

/** Cells from a spreadsheet go from the present one to the right and down. */
async function paste(e: ClipboardEvent) {
  if (editing.value) return
  const text = e.clipboardData?.getData('text/plain') ?? ''
  const first = at()
  if (!text || first < 0) return
  e.preventDefault()
  const ops: Op[] = []
  for (const [n, line] of text
    .replace(/\r?\n$/, '')
    .split(/\r?\n/)
    .entries()) {
    const r = props.list.row(first + n)
    if (!r) return notice.refuse(new Error(t('tags.pasteTooLong', { n: n + 1 })))
    for (const [k, content] of line.split('\t').entries()) {
      const c = shown.value[cell.value + k]
      if (!c?.ops)
        return notice.refuse(
          new Error(t('tags.pasteNotHere', { column: c ? t(word('tags.column', c.key)) : '' })),
        )
      const made = c.ops(r, content)
      if (typeof made === 'string') return notice.refuse(new Error(t('tags.notANumber', { text: made })))
      ops.push(...made)
    }
  }
  await project.edit(t('tags.pasted', { n: ops.length }), ops)
}
function copy(e: ClipboardEvent) {
  if (editing.value || !props.picked.size) return
  const lines = props.list.loaded.value
    .filter((r) => props.picked.has(r.tag.id))
    .map((r) => shown.value.map((c) => content(c, r)).join('\t'))
  e.clipboardData?.setData('text/plain', lines.join('\n'))
  e.preventDefault()
}
function drag(r: TagRow, e: DragEvent) {
  e.dataTransfer?.setData(
    'application/x-rr-tags',
    JSON.stringify(props.picked.has(r.tag.id) ? [...props.picked].slice(0, 500) : [r.tag.id]),
  )
}
function age(id: string) {
  const v = values.get(id)
  if (!v || v.level === 'bad' || !v.at) return ''
  const s = Math.max(0, (live.serverNow() - v.at) / 1000)
  return s < 90 ? s.toFixed(1) + ' s' : s < 5400 ? Math.round(s / 60) + ' min' : Math.round(s / 3600) + ' h'
}
function content(c: Column, r: TagRow): string {
  const v = values.get(r.tag.id)
  switch (c.key) {
    case 'path':
      return props.folder && r.path.startsWith(props.folder + '.')
        ? r.path.slice(props.folder.length + 1)
        : r.path
    case 'from':
      return r.tag.source === 'device'
        ? project.deviceName(r.tag.device) || t('tags.noDevice')
        : t(word('source', r.tag.source))
    case 'address':
      return r.tag.address || r.tag.formula || r.tag.system || r.tag.initial || ''
    case 'access':
      return r.tag.access ? t(word('access', r.tag.access)) : ''
    case 'raw':
      return v?.raw ?? ''
    case 'value':
      return v?.text ?? ''
    case 'quality':
      return v ? t(word('quality', v.level)) : ''
    case 'age':
      return v?.level === 'bad' ? v.reason : age(r.tag.id)
    case 'check':
      return r.check ? t(word('check', r.check)) : ''
    case 'used':
      return r.uses ? String(r.uses) : ''
  }
  return c.text?.(r) ?? ''
}
const sortBy = (c: Column) => {
  const f = props.list.filter.value
  if (c.sort) props.list.filter.value = { ...f, sort: c.sort, down: f.sort === c.sort && !f.down }
}
const mono = new Set([
  'path',
  'type',
  'address',
  'raw',
  'age',
  'used',
  'poll',
  'low',
  'high',
  'step',
  'decimals',
])
</script>

<template>
  <div
    ref="scroller"
    class="list"
    tabindex="0"
    role="grid"
    :aria-rowcount="list.total.value"
    :aria-label="$t('stop.tags')"
    @keydown="key"
    @paste="paste"
    @copy="copy">
    <div class="tr th" role="row" :style="{ gridTemplateColumns: template }">
      <span />
      <component
        :is="c.sort ? 'button' : 'span'"
        v-for="c in shown"
        :key="c.key"
        class="bare"
        :class="{ right: c.right }"
        role="columnheader"
        :aria-sort="
          list.filter.value.sort === c.sort && c.sort
            ? list.filter.value.down
              ? 'descending'
              : 'ascending'
            : undefined
        "
        @click="sortBy(c)">
        {{ c.key === 'path' && folder ? $t('tags.nameIn', { folder }) : $t($word('tags.column', c.key)) }}
      </component>
    </div>
    <div v-if="!list.total.value" class="empty">
      <h2>{{ $t('tags.empty') }}</h2>
      <p>{{ $t('tags.emptyWhy') }}</p>
    </div>
    <div class="space" :style="{ height: virtual.getTotalSize() + 'px' }">
      <div
        v-for="{ v, r } in rows"
        :key="v.index % slots"
        class="tr"
        role="row"
        draggable="true"
        :class="{ on: picked.has(r.tag.id) || selected === r.tag.id }"
        :aria-selected="picked.has(r.tag.id)"
        :style="{ transform: `translateY(${v.start}px)`, gridTemplateColumns: template }"
        @dragstart="drag(r, $event)">
        <span class="state" @click="click(r, v.index, cell, $event)">
          <span v-if="r.severity" class="dot" :class="r.severity" :title="$t('tags.hasFinding')">!</span>
        </span>
        <span
          v-for="(c, k) in shown"
          :key="c.key"
          role="gridcell"
          class="c"
          :class="[
            c.key,
            { right: c.right, mono: mono.has(c.key), now: selected === r.tag.id && cell === k },
          ]"
          :title="
            c.key === 'age'
              ? values.get(r.tag.id)?.reason
              : c.key === 'address'
                ? r.reference || content(c, r)
                : content(c, r)
          "
          @click="click(r, v.index, k, $event)"
          @dblclick="begin(r)">
          <input
            v-if="editing?.id === r.tag.id && cell === k"
            v-model="editing.text"
            class="cell"
            :class="{ mono: mono.has(c.key) }"
            :aria-label="$t($word('tags.column', c.key))"
            @click.stop
            @keydown.enter.prevent="commit('down')"
            @keydown.tab.prevent="commit('right')"
            @keydown.esc.stop="editing = undefined"
            @blur="commit('')" />
          <ValueCell v-else-if="c.key === 'value'" :value="values.get(r.tag.id)" />
          <bdi v-else-if="c.key === 'path'">{{ content(c, r) }}</bdi>
          <template v-else>{{ content(c, r) }}</template>
        </span>
      </div>
    </div>
  </div>
</template>

<style scoped>
.list {
  flex: 1;
  overflow: auto;
  position: relative;
  outline-offset: -2px;
}
.space {
  position: relative;
}
.tr {
  display: grid;
  align-items: center;
  height: 32px;
  border-bottom: 1px solid var(--c-line);
  padding-right: 10px;
  gap: 5px;
  box-sizing: border-box;
  min-width: 100%;
}
.space .tr {
  position: absolute;
  left: 0;
  right: 0;
  cursor: default;
}
.tr > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.th {
  position: sticky;
  top: 0;
  background: var(--c-sheet);
  z-index: 1;
  font-size: 12px;
  color: var(--c-quiet);
}
.space .tr:hover {
  background: color-mix(in srgb, var(--c-tint) 45%, transparent);
}
.space .tr.on {
  background: var(--c-tint);
  box-shadow: inset 3px 0 var(--c-spruce);
}
.c {
  height: 31px;
  line-height: 31px;
}
/* Cut in front: a path's end is what tells it from another. */
.c.path {
  direction: rtl;
  text-align: left;
}
.c.now {
  box-shadow: inset 0 0 0 1px var(--c-spruce);
  padding-inline: 4px;
  margin-inline: -4px;
}
.list:focus .c.now {
  box-shadow: inset 0 0 0 2px var(--c-spruce);
}
.right {
  text-align: right;
}
.address,
.raw {
  color: var(--c-quiet);
  font-size: 13px;
}
.type,
.age,
.used,
.check,
.quality {
  font-size: 12px;
}
.age {
  color: var(--c-quiet);
}
.cell {
  direction: ltr;
  width: 100%;
  height: 29px;
  box-sizing: border-box;
  border: 0;
  outline: 2px solid var(--c-spruce);
  background: var(--c-paper);
  color: var(--c-ink);
  font-size: 14px;
  padding: 0 4px;
}
.dot {
  display: inline-grid;
  place-items: center;
  width: 16px;
  height: 16px;
  border-radius: 50%;
  font-weight: 700;
  font-size: 11px;
  color: #fff;
  background: var(--c-warning);
  margin-left: 6px;
}
.dot.error {
  background: var(--c-critical);
}
</style>
