<script setup lang="ts">
import { mdiTrashCanOutline } from '@mdi/js'
import { computed, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, ask, type Op, type Schemas, sentence } from '../../api/client'
import { useNotice } from '../../kit/problem'
import { freshId, useProject } from '../../rail/project'
import TypeAlarms from './TypeAlarms.vue'

type Member = Schemas['Member']

// A type: its settings and members. An edit first says what it would do to
// the equipment that exists, and is done with Apply.
const props = defineProps<{ type: Schemas['Type'] }>()
const project = useProject()
const router = useRouter()
const notice = useNotice()
const { t } = useI18n()
const pending = shallowRef<{ ops: Op[]; effect: Schemas['Effect'] }>()
const problem = ref('')
const members = computed(() => Object.entries(props.type.members).sort(([, a], [, b]) => a!.order - b!.order) as [string, Member][])
const settings = computed(() => props.type.settings ?? [])
const info = computed(() => project.types.find((x) => x.id === props.type.id))
const open = ref('')

async function change(path: string, value: unknown, was?: unknown) {
  problem.value = ''
  const ops: Op[] = [...(pending.value?.ops ?? []), { kind: 'type', id: props.type.id, path, value, was }]
  try {
    const effect = await ask(api.POST('/api/projects/{project}/effects', { params: { path: project.path }, body: { label: '', ops } }))
    pending.value = { ops, effect }
    if (!effect.instances) await apply()
  } catch (e) {
    problem.value = sentence(e)
  }
}
async function apply() {
  const p = pending.value
  pending.value = undefined
  if (p) await project.edit(t('gear.edited', { name: props.type.name }), p.ops)
}
const text = (e: Event) => (e.target as HTMLInputElement).value.trim()
/** The tag of a member with some of it set anew. */
const tag = (id: string, m: Member, part: Record<string, unknown>) => {
  const next = { ...m.tag, ...part } as Record<string, unknown>
  for (const [k, v] of Object.entries(next)) if (v === '' || v === undefined) delete next[k]
  return change(`/members/${id}/tag`, { ...next, name: m.name, id: '' })
}
function addMember(nested: boolean) {
  const id = freshId('member')
  const order = Math.max(0, ...members.value.map(([, m]) => m.order)) + 1
  let n = members.value.length + 1
  while (members.value.some(([, m]) => m.name === 'Member' + n)) n++
  const base = { order, name: 'Member' + n }
  void change('/members/' + id, nested ? { ...base, type: project.types.find((x) => x.id !== props.type.id)?.id ?? '' } : { ...base, tag: { id: '', name: base.name, type: 'REAL', source: 'internal' } })
}
async function draw() {
  try {
    await ask(api.POST('/api/projects/{project}/drawings', { params: { path: project.path }, body: { type: props.type.id } }))
  } catch (e) {
    notice.refuse(e)
  }
}
async function remove() {
  if (!(await project.edit(t('gear.deleted', { name: props.type.name }), [{ kind: 'type', id: props.type.id, path: '' }]))) void router.push({ name: 'equipment', params: { project: project.id } })
}
const types = ['BOOL', 'SINT', 'USINT', 'INT', 'UINT', 'DINT', 'UDINT', 'LINT', 'ULINT', 'REAL', 'LREAL', 'STRING(16)', 'STRING(80)']
const typesOf = (now: string | undefined) => [...new Set([now ?? 'REAL', ...types])]
const flip = (id: string, m: Member, name: string) => change(`/members/${id}/differs`, (m.differs ?? []).includes(name) ? (m.differs ?? []).filter((d) => d !== name) : [...(m.differs ?? []), name])
</script>

<template>
  <div class="editor">
    <div class="head">
      <input class="plain name" :value="type.name" :aria-label="$t('gear.typeName')" @change="change('/name', text($event))" />
      <input class="plain grow" :value="type.description" :placeholder="$t('common.description')" :aria-label="$t('common.description')" @change="change('/description', text($event) || undefined)" />
      <router-link v-if="type.symbol" :to="{ name: 'screens', params: { project: project.id, id: type.symbol } }">{{ $t('gear.symbol') }}</router-link>
      <router-link v-if="type.faceplate" :to="{ name: 'screens', params: { project: project.id, id: type.faceplate } }">{{ $t('gear.faceplate') }}</router-link>
      <button v-if="!type.symbol || !type.faceplate" class="chip" @click="draw">{{ $t('gear.draw') }}</button>
      <button v-if="!info?.instances" class="bare" :aria-label="$t('common.delete')" @click="remove"><v-icon :icon="mdiTrashCanOutline" size="18" /></button>
    </div>
    <div v-if="pending" class="effect" role="status">
      <div><strong>{{ $t('gear.effect', { instances: pending.effect.instances, changed: pending.effect.changed, fresh: pending.effect.new, gone: pending.effect.gone }) }}</strong></div>
      <div class="lines mono"><div v-for="l in pending.effect.lines" :key="l">{{ l }}</div></div>
      <div><v-btn color="primary" size="small" @click="apply">{{ $t('gear.apply') }}</v-btn> <v-btn variant="text" size="small" @click="pending = undefined">{{ $t('gear.discard') }}</v-btn></div>
    </div>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <div class="settings">
      <h2>{{ $t('gear.settings') }}</h2>
      <span v-for="(s, i) in settings" :key="i" class="setting"><input class="plain mono" :value="s.name" :aria-label="$t('common.name')" @change="change('/settings', settings.map((x, k) => (k === i ? { ...x, name: text($event) } : x)))" /><input class="plain mono" :value="s.default" :placeholder="$t('gear.default')" :aria-label="$t('gear.default')" @change="change('/settings', settings.map((x, k) => (k === i ? { ...x, default: text($event) } : x)))" /><button class="bare" :aria-label="$t('common.delete')" @click="change('/settings', settings.filter((_, k) => k !== i))">×</button></span>
      <button class="chip" @click="change('/settings', [...settings, { name: settings.length ? 'setting' + (settings.length + 1) : 'base', default: '0' }])">+ {{ $t('gear.setting') }}</button>
    </div>
    <table class="grid">
      <thead><tr><th>{{ $t('common.name') }}</th><th>{{ $t('gear.array') }}</th><th>{{ $t('tags.type') }}</th><th>{{ $t('tags.source') }}</th><th>{{ $t('tags.address') }}</th><th>{{ $t('tags.access') }}</th><th>{{ $t('tags.unit') }}</th><th>{{ $t('common.description') }}</th><th>{{ $t('gear.differs') }}</th><th /></tr></thead>
      <tbody>
        <template v-for="[id, m] in members" :key="id">
          <tr>
            <td><input class="plain mono" :value="m.name" :aria-label="$t('common.name')" @change="change(`/members/${id}/name`, text($event))" /></td>
            <td class="array"><input class="plain mono" :value="m.to ? `${m.from ?? 0}..${m.to}` : ''" placeholder="—" :aria-label="$t('gear.array')" @change="change(`/members/${id}`, { ...m, from: Number(text($event).split('..')[0]) || 0, to: Number(text($event).split('..')[1]) || 0 })" /></td>
            <template v-if="m.tag">
              <td><select class="plain mono" :value="m.tag.type" :aria-label="$t('tags.type')" @change="tag(id, m, { type: text($event) })"><option v-for="x in typesOf(m.tag.type)" :key="x">{{ x }}</option></select></td>
              <td><select class="plain" :value="m.tag.source" :aria-label="$t('tags.source')" @change="tag(id, m, { source: text($event), address: text($event) === 'device' ? (m.tag.address || 'holding:{base}') : '', formula: text($event) === 'computed' ? (m.tag.formula || '0') : '', access: text($event) === 'device' ? 'read' : '' })"><option v-for="x in ['device', 'internal', 'computed']" :key="x" :value="x">{{ $t('source.' + x) }}</option></select></td>
              <td><input class="plain mono" :value="m.tag.source === 'computed' ? m.tag.formula : m.tag.address" :disabled="m.tag.source === 'internal'" :aria-label="$t('tags.address')" @change="tag(id, m, m.tag.source === 'computed' ? { formula: text($event) } : { address: text($event) })" /></td>
              <td><select v-if="m.tag.source === 'device'" class="plain" :value="m.tag.access" :aria-label="$t('tags.access')" @change="tag(id, m, { access: text($event) })"><option v-for="x in ['read', 'readwrite']" :key="x" :value="x">{{ $t('access.' + x) }}</option></select></td>
              <td class="unit"><input class="plain" :value="m.tag.unit" :aria-label="$t('tags.unit')" @change="tag(id, m, { unit: text($event) })" /></td>
              <td><input class="plain" :value="m.tag.description" :aria-label="$t('common.description')" @change="tag(id, m, { description: text($event) })" /></td>
              <td><button class="chip" :aria-expanded="open === id" @click="open = open === id ? '' : id">{{ m.differs?.length ?? 0 }}</button></td>
            </template>
            <template v-else>
              <td colspan="2"><select class="plain" :value="m.type" :aria-label="$t('gear.type')" @change="change(`/members/${id}/type`, text($event))"><option v-for="x in project.types" :key="x.id" :value="x.id">{{ x.name }}</option></select></td>
              <td colspan="4"><span v-for="(v, k) in m.settings ?? {}" :key="k" class="mono given">{{ k }} = <input class="plain mono" :value="v" :aria-label="String(k)" @change="change(`/members/${id}/settings/${k}`, text($event))" /></span></td>
              <td /><td />
            </template>
            <td><button class="bare" :aria-label="$t('common.delete')" @click="change('/members/' + id, undefined)"><v-icon :icon="mdiTrashCanOutline" size="16" /></button></td>
          </tr>
          <tr v-if="open === id && m.tag"><td colspan="10" class="differ"><span class="quiet">{{ $t('gear.differsWhy') }}</span><label v-for="d in project.differing" :key="d"><input type="checkbox" :checked="(m.differs ?? []).includes(d)" @change="flip(id, m, d)" /> {{ d }}</label></td></tr>
        </template>
      </tbody>
    </table>
    <div><button class="chip" @click="addMember(false)">+ {{ $t('gear.member') }}</button> <button class="chip" :disabled="project.types.length < 2" @click="addMember(true)">+ {{ $t('gear.nested') }}</button></div>
    <TypeAlarms :type="type" @change="(path, value) => change(path, value)" />
  </div>
</template>

<style scoped>
.editor { display: grid; gap: 12px; }
.head { display: flex; gap: 12px; align-items: center; }
.name { font-size: 18px; font-weight: 650; width: 180px; }
.grow { flex: 1; }
.effect { border: 2px solid var(--c-spruce); border-radius: 4px; padding: 10px 14px; display: grid; gap: 8px; background: var(--c-tint); }
.lines { max-height: 160px; overflow: auto; font-size: 12px; }
.settings { display: flex; flex-wrap: wrap; gap: 10px; align-items: center; }
.settings h2 { font-size: 14px; }
.setting { display: inline-flex; gap: 4px; }
.setting input { width: 84px; }
.grid input, .grid select { border-color: transparent; background: none; min-height: 28px; padding: 0 4px; font-size: 13px; width: 100%; box-sizing: border-box; }
.grid input:hover, .grid select:hover, .grid input:focus, .grid select:focus { border-color: var(--c-line); background: var(--c-paper); }
.grid { table-layout: fixed; width: 100%; }
.grid th:nth-child(1) { width: 128px; }
.grid th:nth-child(2) { width: 58px; }
.grid th:nth-child(3) { width: 84px; }
.grid th:nth-child(4) { width: 88px; }
.grid th:nth-child(6) { width: 96px; }
.grid th:nth-child(7) { width: 54px; }
.grid th:nth-child(9) { width: 56px; }
.grid th:nth-child(10) { width: 36px; }
.given { margin-right: 10px; font-size: 12px; }
.given { display: inline-flex; align-items: center; gap: 4px; }
.given input { width: 150px; }
.differ { display: flex; flex-wrap: wrap; gap: 4px 14px; font-size: 13px; padding: 6px 10px; }
</style>
