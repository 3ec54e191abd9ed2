<script setup lang="ts">
import { mdiTrashCanOutline } from '@mdi/js'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, ask, type Tag } from '../../api/client'
import { useNotice } from '../../kit/problem'
import { useCatalogue } from '../../rail/catalogue'
import { freshId, useProject } from '../../rail/project'
import TypeAlarms from './TypeAlarms.vue'
import type { Member, TypeEdit } from './useTypeEdit'
import TypedInput from '../../kit/TypedInput.vue'

// A type: its settings and members. A member is chosen for the rest of it, which
// stands beside the table.
const props = defineProps<{ edit: TypeEdit; chosen: string }>()
const emit = defineEmits<{ choose: [member: string] }>()
const project = useProject()
const catalogue = useCatalogue()
const router = useRouter()
const notice = useNotice()
const { t } = useI18n()
const { change, setTag, members, effect, problem } = props.edit
const type = computed(() => props.edit.type.value!)
const settings = computed(() => type.value.settings ?? [])
const info = computed(() => project.types.find((x) => x.id === type.value.id))
const nested = (m: Member) => project.types.find((x) => x.id === m.type)

const text = (e: Event) => (e.target as HTMLInputElement).value.trim()
const placeOf = (tag: Partial<Tag>) =>
  tag.source === 'computed' ? tag.formula : tag.source === 'system' ? tag.system : tag.address
const clock = () => {
  const v = catalogue.system.find((x) => x.name === 'clock')
  return { system: v?.name, type: v?.type, decimals: undefined, low: undefined, high: undefined }
}
function setSource(id: string, m: Member, source: string) {
  void setTag(id, {
    source,
    address: source === 'device' ? m.tag!.address || 'holding:{base}' : '',
    formula: source === 'computed' ? m.tag!.formula || '0' : '',
    access: source === 'device' ? 'read' : '',
    ...(source === 'system' ? clock() : { system: '', log: '', book: '' }),
  })
}
const setRange = (id: string, m: Member, range: string) =>
  change(`/members/${id}`, {
    ...m,
    from: Number(range.split('..')[0]) || 0,
    to: Number(range.split('..')[1]) || 0,
  })
const setting = (id: string, m: Member, name: string, v: string) =>
  change(`/members/${id}/settings`, { ...m.settings, [name]: v || undefined })
function addMember(within: boolean) {
  const id = freshId('member')
  const order = Math.max(0, ...members.value.map(([, m]) => m.order)) + 1
  let n = members.value.length + 1
  while (members.value.some(([, m]) => m.name === 'Member' + n)) n++
  const base = { order, name: 'Member' + n }
  void change(
    '/members/' + id,
    within
      ? { ...base, type: project.types.find((x) => x.id !== type.value.id)?.id ?? '' }
      : { ...base, tag: { id: '', name: base.name, type: 'REAL', source: 'internal' } },
  )
  emit('choose', id)
}
async function draw() {
  try {
    await ask(
      api.POST('/api/projects/{project}/drawings', {
        params: { path: project.path },
        body: { type: type.value.id },
      }),
    )
  } catch (e) {
    notice.refuse(e)
  }
}
async function remove() {
  if (
    !(await project.edit(t('gear.deleted', { name: type.value.name }), [
      { kind: 'type', id: type.value.id, path: '' },
    ]))
  )
    void router.push({ name: 'equipment', params: { project: project.id } })
}
const types = [
  'BOOL',
  'SINT',
  'USINT',
  'INT',
  'UINT',
  'DINT',
  'UDINT',
  'LINT',
  'ULINT',
  'REAL',
  'LREAL',
  'STRING(16)',
  'STRING(80)',
]
const typesOf = (now: string | undefined) => [...new Set([now ?? 'REAL', ...types])]
</script>

<template>
  <div class="editor">
    <div class="head">
      <TypedInput
        class="plain name"
        :value="type.name"
        :aria-label="$t('gear.typeName')"
        @change="change('/name', text($event))" />
      <TypedInput
        class="plain grow"
        :value="type.description"
        :placeholder="$t('common.description')"
        :aria-label="$t('common.description')"
        @change="change('/description', text($event) || undefined)" />
      <router-link
        v-if="type.symbol"
        :to="{ name: 'screens', params: { project: project.id, id: type.symbol } }">
        {{ $t('gear.symbol') }}
      </router-link>
      <router-link
        v-if="type.faceplate"
        :to="{ name: 'screens', params: { project: project.id, id: type.faceplate } }">
        {{ $t('gear.faceplate') }}
      </router-link>
      <button v-if="!type.symbol || !type.faceplate" class="chip" @click="draw">{{ $t('gear.draw') }}</button>
      <button v-if="!info?.instances" class="bare" :aria-label="$t('common.delete')" @click="remove">
        <v-icon :icon="mdiTrashCanOutline" size="18" />
      </button>
    </div>
    <div v-if="effect" class="effect" role="status">
      <div>
        <strong>
          {{
            $t('gear.effect', {
              instances: effect.instances,
              changed: effect.changed,
              fresh: effect.new,
              gone: effect.gone,
            })
          }}
        </strong>
      </div>
      <div class="lines mono">
        <div v-for="l in effect.lines" :key="l">{{ l }}</div>
      </div>
      <div>
        <v-btn color="primary" size="small" @click="edit.apply()">{{ $t('gear.apply') }}</v-btn>
        {{ ' ' }}
        <v-btn variant="text" size="small" @click="edit.discard()">{{ $t('gear.discard') }}</v-btn>
      </div>
    </div>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <div class="settings">
      <h2>{{ $t('gear.settings') }}</h2>
      <span v-for="(s, i) in settings" :key="i" class="setting">
        <TypedInput
          class="plain mono"
          :value="s.name"
          :aria-label="$t('common.name')"
          @change="
            change(
              '/settings',
              settings.map((x, k) => (k === i ? { ...x, name: text($event) } : x)),
            )
          " />
        <TypedInput
          class="plain mono"
          :value="s.default"
          :placeholder="$t('gear.default')"
          :aria-label="$t('gear.default')"
          @change="
            change(
              '/settings',
              settings.map((x, k) => (k === i ? { ...x, default: text($event) } : x)),
            )
          " />
        <button
          class="bare drop"
          :aria-label="$t('common.delete')"
          @click="
            change(
              '/settings',
              settings.filter((_, k) => k !== i),
            )
          ">
          ×
        </button>
      </span>
      <button
        class="chip"
        @click="
          change('/settings', [
            ...settings,
            { name: settings.length ? 'setting' + (settings.length + 1) : 'base', default: '0' },
          ])
        ">
        + {{ $t('gear.setting') }}
      </button>
    </div>
    <table class="grid members">
      <thead>
        <tr>
          <th>{{ $t('common.name') }}</th>
          <th>{{ $t('gear.array') }}</th>
          <th>{{ $t('tags.type') }}</th>
          <th>{{ $t('tags.source') }}</th>
          <th>{{ $t('tags.address') }}</th>
          <th>{{ $t('tags.unit') }}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="[id, m] in members"
          :key="id"
          :class="{ on: id === chosen }"
          @click="emit('choose', id)"
          @focusin="emit('choose', id)">
          <td>
            <TypedInput
              class="plain mono"
              :value="m.name"
              :title="m.name"
              :aria-label="$t('common.name')"
              @change="change(`/members/${id}/name`, text($event))" />
          </td>
          <td class="array">
            <TypedInput
              class="plain mono"
              :value="m.to ? `${m.from ?? 0}..${m.to}` : ''"
              placeholder="—"
              :aria-label="$t('gear.array')"
              @change="setRange(id, m, text($event))" />
          </td>
          <template v-if="m.tag">
            <td>
              <select
                class="plain mono"
                :value="m.tag.type"
                :aria-label="$t('tags.type')"
                @change="setTag(id, { type: text($event) })">
                <option v-for="x in typesOf(m.tag.type)" :key="x">{{ x }}</option>
              </select>
            </td>
            <td>
              <select
                class="plain"
                :value="m.tag.source"
                :aria-label="$t('tags.source')"
                @change="setSource(id, m, text($event))">
                <option v-for="x in ['device', 'internal', 'computed', 'system']" :key="x" :value="x">
                  {{ $t($word('source', x)) }}
                </option>
              </select>
            </td>
            <td>
              <TypedInput
                class="plain mono"
                :value="placeOf(m.tag)"
                :title="placeOf(m.tag)"
                :disabled="m.tag.source === 'internal' || m.tag.source === 'system'"
                :aria-label="$t('tags.address')"
                @change="
                  setTag(
                    id,
                    m.tag.source === 'computed' ? { formula: text($event) } : { address: text($event) },
                  )
                " />
            </td>
            <td>
              <TypedInput
                class="plain"
                :value="m.tag.unit"
                :aria-label="$t('tags.unit')"
                @change="setTag(id, { unit: text($event) })" />
            </td>
          </template>
          <template v-else>
            <td colspan="2">
              <select
                class="plain"
                :value="m.type"
                :aria-label="$t('gear.type')"
                @change="change(`/members/${id}/type`, text($event))">
                <option v-for="x in project.types" :key="x.id" :value="x.id">{{ x.name }}</option>
              </select>
            </td>
            <td colspan="2">
              <label v-for="s in nested(m)?.settings ?? []" :key="s.name" class="mono given">
                {{ s.name }} =
                <TypedInput
                  class="plain mono"
                  :value="m.settings?.[s.name]"
                  :placeholder="settings.some((x) => x.name === s.name) ? s.name : s.default"
                  :aria-label="`${m.name}: ${s.name}`"
                  @change="setting(id, m, s.name, text($event))" />
              </label>
            </td>
          </template>
          <td>
            <button
              class="bare"
              :aria-label="$t('common.delete')"
              @click.stop="change('/members/' + id, undefined)">
              <v-icon :icon="mdiTrashCanOutline" size="16" />
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <div>
      <button class="chip" @click="addMember(false)">+ {{ $t('gear.member') }}</button>
      {{ ' ' }}
      <button class="chip" :disabled="project.types.length < 2" @click="addMember(true)">
        + {{ $t('gear.nested') }}
      </button>
    </div>
    <TypeAlarms :type="type" @change="change" />
  </div>
</template>

<style scoped>
.editor {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 12px;
}
.head {
  display: flex;
  gap: 12px;
  align-items: center;
}
.name {
  font-size: 18px;
  font-weight: 650;
  width: 180px;
}
.grow {
  flex: 1;
}
.effect {
  border: 2px solid var(--c-spruce);
  border-radius: 4px;
  padding: 10px 14px;
  display: grid;
  gap: 8px;
  background: var(--c-tint);
}
.lines {
  max-height: 160px;
  overflow: auto;
  font-size: 12px;
}
.settings {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
}
.settings h2 {
  font-size: 14px;
}
.setting {
  display: inline-flex;
  gap: 4px;
}
.setting input {
  width: 84px;
}
.grid input,
.grid select {
  border-color: transparent;
  background: none;
  min-height: 28px;
  padding: 0 4px;
  font-size: 13px;
  width: 100%;
  box-sizing: border-box;
}
.grid input:hover,
.grid select:hover,
.grid input:focus,
.grid select:focus {
  border-color: var(--c-line);
  background: var(--c-paper);
}
.members {
  table-layout: fixed;
  width: 100%;
}
.members tr {
  cursor: pointer;
}
.members th:nth-child(1) {
  width: 128px;
}
.members th:nth-child(2) {
  width: 56px;
}
.members th:nth-child(3) {
  width: 82px;
}
.members th:nth-child(4) {
  width: 90px;
}
.members th:nth-child(6) {
  width: 52px;
}
.members th:nth-child(7) {
  width: 36px;
}
.given {
  display: flex;
  align-items: center;
  gap: 4px;
  font-size: 12px;
  white-space: nowrap;
}
.drop {
  min-width: 24px;
}
</style>
