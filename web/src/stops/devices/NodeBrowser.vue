<script setup lang="ts">
import { mdiChevronDown, mdiChevronRight } from '@mdi/js'
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Device, type Schemas, sentence } from '../../api/client'
import { useNotice } from '../../kit/problem'
import { useProject } from '../../rail/project'
import PathText from '../../kit/PathText.vue'

// The address space of a server, opened level by level; what is ticked becomes
// tags in folders of the same names.
type Item = Schemas['Item']
const props = defineProps<{ device: Device }>()
const project = useProject()
const notice = useNotice()
const { t } = useI18n()
type Line = { item: Item; depth: number; path: string[] }
const kids = shallowRef(new Map<string, Item[]>())
const open = ref(new Set<string>())
const ticked = ref(new Map<string, Line>())
const problem = ref('')
const text = ref('')
/** How many places a walk through a branch has read; 0 while none runs. */
const walked = ref(0)
/** A branch larger than this is read in parts. */
const MOST = 5000

async function look(node: string) {
  try {
    const got = await ask(
      api.GET('/api/projects/{project}/devices/{id}/browse', {
        params: { path: { ...project.path, id: props.device.id }, query: { node } },
      }),
    )
    kids.value = new Map(kids.value).set(node, got)
    problem.value = ''
    return got
  } catch (e) {
    problem.value = sentence(e)
    return undefined
  }
}
function forget() {
  kids.value = new Map()
  open.value = new Set()
  ticked.value = new Map()
  void look('')
}
watch(() => props.device.id, forget, { immediate: true })
async function toggle(i: Item) {
  const next = new Set(open.value)
  if (!next.delete(i.address)) {
    next.add(i.address)
    if (!kids.value.has(i.address)) await look(i.address)
  }
  open.value = next
}
const pathOf = (item: Item, path: string[]) =>
  item.name.startsWith('[') && path.length
    ? [...path.slice(0, -1), path.at(-1)! + item.name]
    : [...path, item.name]
/** What has been read, from a node down; opened says into what it goes. */
function below(node: string, depth: number, path: string[], opened: (i: Item) => boolean): Line[] {
  if (depth > 30) return []
  return (kids.value.get(node) ?? []).flatMap((item) => {
    const here = pathOf(item, path)
    return [
      { item, depth, path: here },
      ...(opened(item) ? below(item.address, depth + 1, here, opened) : []),
    ]
  })
}
const lines = computed(() => {
  const words = text.value.toLowerCase().split(/\s+/).filter(Boolean)
  if (!words.length) return below('', 0, [], (i) => open.value.has(i.address))
  return below('', 0, [], () => true)
    .filter((l) => words.every((w) => `${l.path.join('.')} ${l.item.address}`.toLowerCase().includes(w)))
    .map((l) => ({ ...l, depth: 0 }))
})
/** Reads a whole branch, as far as it is not known yet. */
async function walk(node: string) {
  walked.value = 1
  const seen = new Set<string>()
  const todo = [node]
  for (let at = todo.pop(); at !== undefined && walked.value > 0; at = todo.pop()) {
    if (seen.has(at)) continue
    seen.add(at)
    const got = kids.value.get(at) ?? (await look(at))
    if (!got) break
    walked.value += got.length
    if (walked.value > MOST) {
      problem.value = t('browse.most', { n: MOST })
      break
    }
    todo.push(...got.filter((i) => i.more).map((i) => i.address))
  }
  walked.value = 0
}
let last = ''
const fits = (l: Line) => !!l.item.type
function set(list: Line[], on: boolean) {
  const next = new Map(ticked.value)
  for (const l of list)
    if (on) next.set(l.item.address, l)
    else next.delete(l.item.address)
  ticked.value = next
}
/** One, or with Shift all from the last one that was ticked. */
function tick(l: Line, e: MouseEvent) {
  const on = !ticked.value.has(l.item.address)
  const shown = lines.value
  const [from, to] = [shown.findIndex((x) => x.item.address === last), shown.indexOf(l)].sort(
    (a, b) => a - b,
  ) as [number, number]
  set(e.shiftKey && from >= 0 ? shown.slice(from, to + 1).filter(fits) : [l], on)
  last = l.item.address
}
const whole = (l: Line) => below(l.item.address, l.depth + 1, l.path, () => true).filter(fits)
const state = (l: Line) => {
  const all = whole(l)
  const n = all.filter((x) => ticked.value.has(x.item.address)).length
  return n === 0 ? 'none' : n === all.length ? 'all' : 'some'
}
async function tickBranch(l: Line) {
  const on = state(l) !== 'all'
  await walk(l.item.address)
  set(whole(l), on)
  open.value = new Set(open.value).add(l.item.address)
}
// The names of the server are brought to our grammar by the import itself.
async function bring() {
  const cell = (s: string) => '"' + s.replace(/"/g, '""') + '"'
  const rows = [...ticked.value.values()].map(({ item, path }) =>
    [path.join('.'), item.type ?? '', item.address, item.writable ? 'readwrite' : 'read'].map(cell).join(','),
  )
  const text = ['Name,Type,Address,Access', ...rows].join('\n')
  try {
    const r = await fetch(`/api/projects/${project.id}/imports?name=browse&format=other`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/octet-stream' },
      body: text,
    })
    const begun = (await r.json()) as Schemas['ImportInfo']
    if (!r.ok) throw new Error((begun as unknown as { detail: string }).detail)
    const path = { ...project.path, id: begun.id }
    const match = {
      source: '',
      header: true,
      columns: { path: 'Name', type: 'Type', address: 'Address', access: 'Access' },
      separators: '.',
      device: props.device.id,
      writes: ['readwrite'],
    }
    const info = await ask(
      api.PUT('/api/projects/{project}/imports/{id}', { params: { path }, body: { match, options: {} } }),
    )
    const done = await ask(
      api.POST('/api/projects/{project}/imports/{id}/apply', {
        params: { path },
        body: { statuses: ['new'], flip: [] },
      }),
    )
    notice.say(t('browse.done', { n: done.tags, same: info.counts.same ?? 0 }))
    ticked.value = new Map()
  } catch (e) {
    notice.refuse(e)
  }
}
</script>

<template>
  <div class="browse">
    <div class="top">
      <input
        v-model="text"
        class="plain find"
        :placeholder="$t('browse.find')"
        :aria-label="$t('browse.find')"
        @keydown.enter="walk('')" />
      <span class="quiet">
        {{
          walked
            ? $t('browse.reading', { n: walked })
            : text
              ? $t('browse.found', { n: lines.length })
              : $t('browse.hint')
        }}
      </span>
      <button v-if="walked" class="bare" @click="walked = 0">{{ $t('common.cancel') }}</button>
      <span class="grow" />
      <v-btn color="primary" :disabled="!ticked.size" @click="bring">
        {{ $t('browse.bring', { n: ticked.size }) }}
      </v-btn>
    </div>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <div class="scroll">
      <div
        v-for="l in lines"
        :key="l.path.join('.') + l.item.address"
        class="line"
        :style="{ paddingLeft: 6 + l.depth * 18 + 'px' }">
        <button
          v-if="l.item.more && !text"
          class="bare fold"
          :aria-expanded="open.has(l.item.address)"
          :aria-label="$t('browse.open', { name: l.item.name })"
          @click="toggle(l.item)">
          <v-icon :icon="open.has(l.item.address) ? mdiChevronDown : mdiChevronRight" size="16" />
        </button>
        <span v-else class="fold" />
        <input
          v-if="l.item.type"
          type="checkbox"
          :checked="ticked.has(l.item.address)"
          :aria-label="l.item.name"
          @click="tick(l, $event)" />
        <input
          v-else-if="l.item.more"
          type="checkbox"
          :checked="state(l) === 'all'"
          :indeterminate="state(l) === 'some'"
          :aria-label="$t('browse.all', { name: l.item.name })"
          :title="$t('browse.all', { name: l.item.name })"
          @click="tickBranch(l)" />
        <PathText class="name" :path="text ? l.path.join('.') : l.item.name" />
        <span class="mono small">{{ l.item.type || (l.item.variable ? l.item.theirs : '') }}</span>
        <span class="mono">{{ l.item.value }}</span>
        <span v-if="l.item.writable" class="chip">{{ $t('browse.writable') }}</span>
        <span class="mono quiet small addr">{{ l.item.address }}</span>
      </div>
    </div>
  </div>
</template>

<style scoped>
.browse {
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 12px 16px;
  min-height: 0;
  flex: 1;
}
.top {
  display: flex;
  align-items: center;
  gap: 10px;
}
.find {
  width: 220px;
}
.grow {
  flex: 1;
}
.scroll {
  overflow: auto;
  flex: 1;
}
.line {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 28px;
  border-bottom: 1px solid var(--c-line);
}
.fold {
  width: 18px;
  flex: none;
}
.name {
  font-weight: 600;
}
input[type='checkbox'] {
  accent-color: var(--c-spruce);
}
.small {
  font-size: 12px;
}
.addr {
  margin-left: auto;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
