<script setup lang="ts">
import { mdiChevronDown, mdiChevronRight } from '@mdi/js'
import { computed, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Device, type Schemas, sentence } from '../../api/client'
import { useNotice } from '../../kit/problem'
import { useProject } from '../../rail/project'

// The address space of a server, opened level by level; what is ticked becomes
// tags in folders of the same names.
type Item = Schemas['Item']
const props = defineProps<{ device: Device }>()
const project = useProject()
const notice = useNotice()
const { t } = useI18n()
const kids = shallowRef(new Map<string, Item[]>())
const open = ref(new Set<string>())
const ticked = ref(new Map<string, { item: Item; path: string[] }>())
const problem = ref('')

async function look(node: string) {
  try {
    const got = await ask(api.GET('/api/projects/{project}/devices/{id}/browse', { params: { path: { ...project.path, id: props.device.id }, query: { node } } }))
    kids.value = new Map(kids.value).set(node, got)
    problem.value = ''
  } catch (e) {
    problem.value = sentence(e)
  }
}
watch(() => props.device.id, () => { kids.value = new Map(); open.value = new Set(); void look('') }, { immediate: true })
async function toggle(i: Item) {
  const next = new Set(open.value)
  if (!next.delete(i.address)) {
    next.add(i.address)
    if (!kids.value.has(i.address)) await look(i.address)
  }
  open.value = next
}
const lines = computed(() => {
  const out: { item: Item; depth: number; path: string[] }[] = []
  const walk = (node: string, depth: number, path: string[]) => {
    for (const item of kids.value.get(node) ?? []) {
      const here = item.name.startsWith('[') && path.length ? [...path.slice(0, -1), path.at(-1)! + item.name] : [...path, item.name]
      out.push({ item, depth, path: here })
      if (open.value.has(item.address) && depth < 30) walk(item.address, depth + 1, here)
    }
  }
  walk('', 0, [])
  return out
})
function tick(l: { item: Item; path: string[] }) {
  const next = new Map(ticked.value)
  if (!next.delete(l.item.address)) next.set(l.item.address, l)
  ticked.value = next
}
// The names of the server are brought to our grammar by the import itself.
async function bring() {
  const cell = (s: string) => '"' + s.replace(/"/g, '""') + '"'
  const rows = [...ticked.value.values()].map(({ item, path }) => [path.join('.'), item.type ?? '', item.address, item.writable ? 'readwrite' : 'read'].map(cell).join(','))
  const text = ['Name,Type,Address,Access', ...rows].join('\n')
  try {
    const r = await fetch(`/api/projects/${project.id}/imports?name=browse&format=other`, { method: 'POST', headers: { 'Content-Type': 'application/octet-stream' }, body: text })
    const begun = (await r.json()) as Schemas['ImportInfo']
    if (!r.ok) throw new Error((begun as unknown as { detail: string }).detail)
    const path = { ...project.path, id: begun.id }
    const match = { source: '', header: true, columns: { path: 'Name', type: 'Type', address: 'Address', access: 'Access' }, separators: '.', device: props.device.id, writes: ['readwrite'] }
    const info = await ask(api.PUT('/api/projects/{project}/imports/{id}', { params: { path }, body: { match, options: {} } }))
    const done = await ask(api.POST('/api/projects/{project}/imports/{id}/apply', { params: { path }, body: { statuses: ['new'], flip: [] } }))
    notice.say(t('browse.done', { n: done.tags, same: info.counts.same ?? 0 }))
    ticked.value = new Map()
  } catch (e) {
    notice.refuse(e)
  }
}
</script>

<template>
  <div class="browse">
    <div class="top"><span class="quiet">{{ $t('browse.hint') }}</span><span class="grow" /><v-btn color="primary" :disabled="!ticked.size" @click="bring">{{ $t('browse.bring', { n: ticked.size }) }}</v-btn></div>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <div class="scroll"><div v-for="l in lines" :key="l.path.join('.') + l.item.address" class="line" :style="{ paddingLeft: 6 + l.depth * 18 + 'px' }">
      <button v-if="l.item.more" class="bare fold" :aria-expanded="open.has(l.item.address)" :aria-label="$t('browse.open', { name: l.item.name })" @click="toggle(l.item)"><v-icon :icon="open.has(l.item.address) ? mdiChevronDown : mdiChevronRight" size="16" /></button><span v-else class="fold" />
      <input v-if="l.item.type" type="checkbox" :checked="ticked.has(l.item.address)" :aria-label="l.item.name" @change="tick(l)" />
      <span class="name">{{ l.item.name }}</span><span class="mono small">{{ l.item.type || (l.item.variable ? l.item.theirs : '') }}</span><span class="mono">{{ l.item.value }}</span><span v-if="l.item.writable" class="chip">{{ $t('browse.writable') }}</span><span class="mono quiet small addr">{{ l.item.address }}</span>
    </div></div>
  </div>
</template>

<style scoped>
.browse { display: flex; flex-direction: column; gap: 8px; padding: 12px 16px; min-height: 0; flex: 1; }
.top { display: flex; align-items: center; }
.grow { flex: 1; }
.scroll { overflow: auto; flex: 1; }
.line { display: flex; align-items: center; gap: 8px; min-height: 28px; border-bottom: 1px solid var(--c-line); }
.fold { width: 18px; flex: none; }
.name { font-weight: 600; }
.small { font-size: 12px; }
.addr { margin-left: auto; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
</style>
