<script setup lang="ts">
import { mdiTrashCanOutline } from '@mdi/js'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { isLimited, KINDS, PRIORITIES } from '../../alarms/useAlarms'
import type { Schemas } from '../../api/client'
import { useCatalogue } from '../../rail/catalogue'
import { freshId, useProject } from '../../rail/project'
import TypedInput from '../../kit/TypedInput.vue'

/** The alarms that all equipment of a type has: a row each, the rest of it on a second line. */
type Alarm = Schemas['TypeAlarm']
const props = defineProps<{ type: Schemas['Type'] }>()
const emit = defineEmits<{ change: [path: string, value: unknown] }>()
const project = useProject()
const catalogue = useCatalogue()
const { t } = useI18n()
const open = ref('')
const alarms = computed(() =>
  (Object.entries(props.type.alarms ?? {}) as [string, Alarm][]).sort(([, a], [, b]) =>
    a.name.localeCompare(b.name),
  ),
)
const members = computed(() =>
  Object.entries(props.type.members)
    .filter(([, m]) => m!.tag)
    .sort(([, a], [, b]) => a!.order - b!.order)
    .map(([id, m]) => ({
      id: '.' + id,
      name: m!.name + (m!.to ? '[…]' : ''),
      bool: m!.tag!.type === 'BOOL',
    })),
)
const numbers = (a: Alarm) =>
  [
    ...(isLimited(a.kind) ? ['deadband'] : []),
    'onDelay',
    'offDelay',
    ...(a.kind === 'rate' || a.kind === 'discrepancy' ? ['window'] : []),
    'shelveMinutes',
  ] as ('deadband' | 'onDelay' | 'offDelay' | 'window' | 'shelveMinutes')[]

const text = (e: Event) => (e.target as HTMLInputElement).value.trim()
const number = (e: Event) => (text(e) === '' ? undefined : Number(text(e).replace(',', '.')))
const set = (id: string, path: string, value: unknown) =>
  emit('change', `/alarms/${id}/${path}`, value === '' || value === false ? undefined : value)
const guide = (id: string, a: Alarm, name: string, value: unknown) =>
  set(id, 'guidance', { ...a.guidance, [name]: value || undefined })
const flip = (id: string, a: Alarm, name: string) =>
  set(
    id,
    'differs',
    (a.differs ?? []).includes(name) ? a.differs!.filter((d) => d !== name) : [...(a.differs ?? []), name],
  )
function add() {
  const m = members.value[0]
  if (!m) return
  const fresh = {
    id: '',
    name: t('alarms.newName'),
    tag: m.id,
    kind: m.bool ? 'state' : 'high',
    limit: m.bool ? undefined : '0',
    priority: 'low',
    message: '',
    differs: catalogue.alarmUsual,
  }
  const id = freshId('alarm').replaceAll('.', '')
  if (props.type.alarms) emit('change', '/alarms/' + id, fresh)
  else emit('change', '/alarms', { [id]: fresh })
  open.value = id
}
</script>

<template>
  <div class="alarms">
    <h2>
      {{ $t('gear.alarms') }}
      <span class="quiet">{{ $t('gear.alarmsWhy') }}</span>
    </h2>
    <table v-if="alarms.length" class="grid">
      <thead>
        <tr>
          <th>{{ $t('common.name') }}</th>
          <th>{{ $t('alarms.signal') }}</th>
          <th>{{ $t('alarms.kind') }}</th>
          <th>{{ $t('alarms.limit') }}</th>
          <th>{{ $t('alarm.column.priority') }}</th>
          <th>{{ $t('gear.differs') }}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <template v-for="[id, a] in alarms" :key="id">
          <tr>
            <td>
              <TypedInput
                class="plain"
                :value="a.name"
                :aria-label="$t('common.name')"
                @change="set(id, 'name', text($event))" />
            </td>
            <td>
              <select
                class="plain mono"
                :value="a.tag"
                :aria-label="$t('alarms.signal')"
                @change="set(id, 'tag', text($event))">
                <option v-for="m in members" :key="m.id" :value="m.id">{{ m.name }}</option>
                <option v-if="!members.some((m) => m.id === a.tag)" :value="a.tag">—</option>
              </select>
            </td>
            <td>
              <select
                class="plain"
                :value="a.kind"
                :aria-label="$t('alarms.kind')"
                @change="set(id, 'kind', text($event))">
                <option v-for="k in KINDS" :key="k" :value="k">{{ $t($word('alarms.kinds', k)) }}</option>
              </select>
            </td>
            <td>
              <TypedInput
                v-if="isLimited(a.kind)"
                class="plain mono"
                :value="a.limit"
                :aria-label="$t('alarms.limit')"
                @change="set(id, 'limit', text($event))" />
            </td>
            <td>
              <select
                class="plain"
                :value="a.priority"
                :aria-label="$t('alarm.column.priority')"
                @change="set(id, 'priority', text($event))">
                <option v-for="p in PRIORITIES" :key="p" :value="p">
                  {{ $t($word('alarm.priority', p)) }}
                </option>
              </select>
            </td>
            <td>
              <button
                class="chip"
                :aria-expanded="open === id"
                :aria-label="`${a.differs?.length ?? 0} … ${$t('gear.alarmMore', { name: a.name })}`"
                @click="open = open === id ? '' : id">
                {{ a.differs?.length ?? 0 }} …
              </button>
            </td>
            <td>
              <button
                class="bare"
                :aria-label="$t('common.delete')"
                @click="emit('change', '/alarms/' + id, undefined)">
                <v-icon :icon="mdiTrashCanOutline" size="16" />
              </button>
            </td>
          </tr>
          <tr v-if="open === id">
            <td colspan="7">
              <div class="more">
                <label class="half">
                  {{ $t('alarm.column.text') }}
                  <TypedInput class="plain" :value="a.message" @change="set(id, 'message', text($event))" />
                </label>
                <label v-if="a.kind === 'formula'" class="half">
                  {{ $t('alarms.condition') }}
                  <TypedInput
                    class="plain mono"
                    :value="a.condition"
                    @change="set(id, 'condition', text($event))" />
                </label>
                <label v-if="a.kind === 'deviation' || a.kind === 'discrepancy'">
                  {{ $t(a.kind === 'deviation' ? 'alarms.setPoint' : 'alarms.feedback') }}
                  <TypedInput
                    class="plain mono"
                    :value="a.target"
                    @change="set(id, 'target', text($event))" />
                </label>
                <label v-for="n in numbers(a)" :key="n">
                  {{ $t(n === 'shelveMinutes' ? 'alarms.shelve' : 'alarms.' + n) }}
                  <TypedInput class="plain mono" :value="a[n]" @change="set(id, n, number($event))" />
                </label>
                <label>
                  {{ $t('alarms.suppress') }}
                  <TypedInput
                    class="plain mono"
                    :value="a.suppress"
                    @change="set(id, 'suppress', text($event))" />
                </label>
                <label>
                  {{ $t('alarms.suppressWhy') }}
                  <TypedInput
                    class="plain"
                    :value="a.suppressWhy"
                    @change="set(id, 'suppressWhy', text($event))" />
                </label>
                <label v-for="g in ['cause', 'consequence', 'action'] as const" :key="g">
                  {{ $t($word('alarm.guidance', g)) }}
                  <TypedInput
                    class="plain"
                    :value="a.guidance?.[g]"
                    @change="guide(id, a, g, text($event))" />
                </label>
                <label>
                  {{ $t('alarms.respondMinutes') }}
                  <TypedInput
                    class="plain mono"
                    :value="a.guidance?.respond"
                    @change="guide(id, a, 'respond', number($event))" />
                </label>
                <label>
                  {{ $t('alarms.screen') }}
                  <select class="plain" :value="a.screen ?? ''" @change="set(id, 'screen', text($event))">
                    <option value="">—</option>
                    <option v-for="s in project.screens.filter((x) => !x.role)" :key="s.id" :value="s.id">
                      {{ s.name }}
                    </option>
                  </select>
                </label>
                <span class="ticks">
                  <label v-if="a.kind === 'state'">
                    <input type="checkbox" :checked="a.inverted" @change="set(id, 'inverted', !a.inverted)" />
                    {{ $t('alarms.inverted') }}
                  </label>
                  <label>
                    <input type="checkbox" :checked="a.latch" @change="set(id, 'latch', !a.latch)" />
                    {{ $t('alarms.latch') }}
                  </label>
                  <label>
                    <input type="checkbox" :checked="a.noAck" @change="set(id, 'noAck', !a.noAck)" />
                    {{ $t('alarms.noAck') }}
                  </label>
                  <label>
                    <input type="checkbox" :checked="a.reviewed" @change="set(id, 'reviewed', !a.reviewed)" />
                    {{ $t('alarms.reviewed') }}
                  </label>
                </span>
                <span class="ticks">
                  <span class="quiet">{{ $t('gear.differsWhy') }}</span>
                  <label v-for="d in catalogue.alarmDiffering" :key="d">
                    <input
                      type="checkbox"
                      :checked="(a.differs ?? []).includes(d)"
                      @change="flip(id, a, d)" />
                    {{ d }}
                  </label>
                </span>
              </div>
            </td>
          </tr>
        </template>
      </tbody>
    </table>
    <div>
      <button class="chip" :disabled="!members.length" @click="add">+ {{ $t('gear.alarm') }}</button>
    </div>
  </div>
</template>

<style scoped>
.alarms {
  display: grid;
  gap: 8px;
}
h2 {
  font-size: 14px;
}
h2 span {
  font-weight: 400;
  font-size: 13px;
  margin-left: 8px;
}
.grid {
  table-layout: fixed;
  width: 100%;
}
.grid td > .plain {
  border-color: transparent;
  background: none;
  min-height: 28px;
  padding: 0 4px;
  font-size: 13px;
  width: 100%;
  box-sizing: border-box;
}
.grid td > .plain:hover,
.grid td > .plain:focus {
  border-color: var(--c-line);
  background: var(--c-paper);
}
.grid th:nth-child(3) {
  width: 116px;
}
.grid th:nth-child(4) {
  width: 76px;
}
.grid th:nth-child(5) {
  width: 100px;
}
.grid th:nth-child(6) {
  width: 76px;
}
.grid th:nth-child(7) {
  width: 36px;
}
.half {
  grid-column: span 2;
}
.grid th {
  overflow: hidden;
  text-overflow: ellipsis;
}
.more {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(130px, 1fr));
  gap: 8px 12px;
  padding: 8px 4px 12px;
}
.more > label {
  display: grid;
  gap: 2px;
  font-size: 12px;
  color: var(--c-quiet);
}
.ticks {
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  font-size: 13px;
  align-items: center;
}
</style>
