<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import FilterBox from '../../kit/FilterBox.vue'
import { useProject } from '../../rail/project'

// Who may open each screen and operate what lies on it, as a table that is edited in
// place: a screen names roles, and where it names none everybody with the right does.
type Screen = Schemas['ScreenInfo']
type Role = Schemas['Role']
type May = 'nothing' | 'look' | 'operate'
const props = defineProps<{ roles: Role[]; areas: { id: string; name: string }[] }>()
const project = useProject()
const { t } = useI18n()
const filter = ref('')
const narrowed = ref(false)

const PARTS = ['symbol', 'header', 'footer']
const screens = computed(() => {
  const wanted = filter.value.trim().toLowerCase()
  return project.screens.filter(
    (s) =>
      !PARTS.includes(s.role) &&
      (!wanted || `${s.name} ${areaOf(s)}`.toLowerCase().includes(wanted)) &&
      (!narrowed.value || s.roles.length || s.operators.length),
  )
})
const areaOf = (s: Screen) => props.areas.find((a) => a.id === s.area)?.name ?? ''
const among = (list: string[], r: Role) => !list.length || list.includes(r.id)

/** The most that a role could do on any screen. */
const most = (r: Role): May =>
  !r.rights.includes('view') ? 'nothing' : r.rights.includes('operate') ? 'operate' : 'look'
function may(s: Screen, r: Role): May {
  if (most(r) === 'nothing' || !among(s.roles, r)) return 'nothing'
  return most(r) === 'operate' && among(s.operators, r) ? 'operate' : 'look'
}
const choices = (r: Role): May[] =>
  most(r) === 'operate'
    ? ['operate', 'look', 'nothing']
    : most(r) === 'look'
      ? ['look', 'nothing']
      : ['nothing']

/** A list of roles with one in or out; none again once it leaves nobody out who could. */
function next(list: string[], r: Role, within: boolean, could: Role[]): string[] | undefined {
  const named = list.length ? list : could.map((x) => x.id)
  const then = within ? [...new Set([...named, r.id])] : named.filter((x) => x !== r.id)
  return could.every((x) => then.includes(x.id)) ? undefined : then
}
function set(s: Screen, r: Role, value: May) {
  const opens = props.roles.filter((x) => most(x) !== 'nothing')
  const acts = props.roles.filter((x) => most(x) === 'operate')
  const ops = []
  if ((value !== 'nothing') !== among(s.roles, r))
    ops.push({ path: '/roles', value: next(s.roles, r, value !== 'nothing', opens), was: s.roles })
  if (value !== 'nothing' && most(r) === 'operate' && (value === 'operate') !== among(s.operators, r))
    ops.push({ path: '/operators', value: next(s.operators, r, value === 'operate', acts), was: s.operators })
  return project.edit(
    t('screenRights.edited', { name: s.name }),
    ops.map(({ path, value: v, was }) => ({
      ...{ kind: 'screen', id: s.id, path, value: v },
      was: was.length ? was : undefined,
    })),
  )
}
/** The last role of a list stays: a list of nobody would mean everybody. */
const last = (s: Screen, r: Role, value: May) =>
  (value === 'nothing' && s.roles.length === 1 && s.roles[0] === r.id) ||
  (value !== 'operate' && s.operators.length === 1 && s.operators[0] === r.id)
</script>

<template>
  <p class="quiet intro">{{ $t('screenRights.intro') }}</p>
  <div class="tools">
    <FilterBox v-model="filter" :label="$t('screenRights.filter')" />
    <label>
      <input v-model="narrowed" type="checkbox" />
      {{ $t('screenRights.narrowed') }}
    </label>
  </div>
  <p v-if="!screens.length" class="quiet">{{ $t('screenRights.none') }}</p>
  <table v-else class="grid">
    <thead>
      <tr>
        <th>{{ $t('screenRights.screen') }}</th>
        <th>{{ $t('screenRights.area') }}</th>
        <th v-for="r in roles" :key="r.id">{{ r.name }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="s in screens" :key="s.id">
        <td class="name">
          <router-link :to="{ name: 'screens', params: { project: project.id, id: s.id } }" :title="s.name">
            {{ s.name }}
          </router-link>
        </td>
        <td class="name quiet">{{ areaOf(s) }}</td>
        <td v-for="r in roles" :key="r.id" :class="{ narrowed: may(s, r) !== most(r) }">
          <select
            class="plain"
            :value="may(s, r)"
            :disabled="choices(r).length === 1"
            :aria-label="`${s.name}, ${r.name}`"
            @change="set(s, r, ($event.target as HTMLSelectElement).value as May)">
            <option v-for="c in choices(r)" :key="c" :value="c" :disabled="last(s, r, c)">
              {{ $t(`screenRights.may.${c}`) }}
            </option>
          </select>
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
.intro {
  max-width: 860px;
}
.tools {
  display: flex;
  align-items: center;
  gap: 18px;
  margin-bottom: 8px;
}
.name {
  max-width: 220px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
td select {
  width: 100%;
  min-width: 92px;
}
/* What the screen takes from a role shows among what the role's rights say. */
td select {
  color: var(--c-quiet);
}
.narrowed select {
  color: var(--c-ink);
  font-weight: 650;
  border: 1.5px solid var(--c-ink);
  background: var(--c-tint);
}
</style>
