<script setup lang="ts">
import { mdiEyeOutline, mdiTrashCanOutline } from '@mdi/js'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import NameBox from '../../kit/NameBox.vue'
import TypedInput from '../../kit/TypedInput.vue'
import { freshId, useProject } from '../../rail/project'
import LookAsBox from './LookAsBox.vue'
import RestField from './RestField.vue'

// What each role may do, for whom the project has roles: their names, rights and rest.
type Role = Schemas['Role']
defineProps<{ roles: Role[]; rights: Schemas['Info'][]; areas: { id: string; name: string }[] }>()
const project = useProject()
const { t } = useI18n()
const looking = ref<Role>()

const edit = (r: Role, path: string, value: unknown, was?: unknown) =>
  project.edit(t('people.roleEdited', { name: r.name }), [{ kind: 'role', id: r.id, path, value, was }])
const toggle = (r: Role, right: Role['rights'][number]) =>
  edit(
    r,
    '/rights',
    r.rights.includes(right) ? r.rights.filter((x) => x !== right) : [...r.rights, right],
    r.rights,
  )
/** A new role may look: without that it could do nothing at the Desk. */
const add = (name: string) =>
  project.edit(t('people.roleAdded', { name }), [
    { kind: 'role', id: freshId('role'), path: '', value: { name, rights: ['view'] } },
  ])
const remove = (r: Role) =>
  project.edit(t('people.roleRemoved', { name: r.name }), [{ kind: 'role', id: r.id, path: '' }])
</script>

<template>
  <h2>{{ $t('people.rights') }}</h2>
  <table class="grid matrix">
    <thead>
      <tr>
        <th>{{ $t('people.role') }}</th>
        <th v-for="r in rights" :key="r.right" class="c" :title="r.does">{{ $t('right.' + r.right) }}</th>
        <th>{{ $t('rest.title') }}</th>
        <th />
      </tr>
    </thead>
    <tbody>
      <tr v-for="r in roles" :key="r.id">
        <td class="name">
          <TypedInput
            class="plain"
            :value="r.name"
            :aria-label="$t('people.roleName')"
            @change="edit(r, '/name', ($event.target as HTMLInputElement).value, r.name)" />
          <button
            class="bare look"
            :aria-label="`${$t('lookAs.button')} ${r.name}`"
            :title="$t('lookAs.button')"
            @click="looking = r">
            <v-icon :icon="mdiEyeOutline" size="16" />
          </button>
        </td>
        <td v-for="x in rights" :key="x.right" class="c">
          <input
            type="checkbox"
            :checked="r.rights.includes(x.right)"
            :aria-label="`${r.name}: ${x.does}`"
            @change="toggle(r, x.right)" />
        </td>
        <td>
          <RestField
            among
            :label="$t('rest.role', { name: r.name })"
            :minutes="r.rest ?? 0"
            @set="edit(r, '/rest', $event || undefined)" />
        </td>
        <td>
          <button
            class="bare"
            :aria-label="`${$t('common.delete')} ${r.name}`"
            :title="$t('common.delete')"
            @click="remove(r)">
            <v-icon :icon="mdiTrashCanOutline" size="16" />
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <NameBox :label="$t('people.addRole')" :hint="$t('people.roleName')" @named="add" />
  <LookAsBox v-if="looking" :role="looking" :areas="areas" @close="looking = undefined" />
</template>

<style scoped>
h2 {
  margin: 24px 0 6px;
}
.name {
  white-space: nowrap;
}
.name .plain {
  width: 112px;
  font-weight: 650;
}
.look {
  margin-left: 4px;
  color: var(--c-spruce);
  min-width: 24px;
  min-height: 24px;
}
.c {
  text-align: center !important;
  padding: 4px 3px !important;
  font-size: 12px;
}
.matrix input[type='checkbox'] {
  accent-color: var(--c-spruce);
  width: 16px;
  height: 16px;
}
</style>
