<script setup lang="ts">
import { mdiPlus, mdiTrashCanOutline } from '@mdi/js'
import { computed } from 'vue'
import type { Schemas } from '../../api/client'

// Which roles the directory's groups have in this project; those of other projects stay
// as they are.
type Member = Schemas['Membership']
const props = defineProps<{
  project: string
  roles: Schemas['Role'][]
  areas: { id: string; name: string }[]
}>()
const members = defineModel<Member[]>({ required: true })
const here = computed(() => members.value.filter((m) => m.project === props.project))
const others = computed(() => members.value.length - here.value.length)
function add() {
  members.value = [
    ...members.value,
    { group: '', project: props.project, role: props.roles[0]?.id ?? '', area: '' },
  ]
}
const drop = (m: Member) => (members.value = members.value.filter((x) => x !== m))
</script>

<template>
  <div>
    <h3>{{ $t('directory.members') }}</h3>
    <p v-if="!here.length" class="quiet">{{ $t('directory.noMembers') }}</p>
    <table v-else class="grid">
      <thead>
        <tr>
          <th>{{ $t('directory.group') }}</th>
          <th>{{ $t('directory.role') }}</th>
          <th>{{ $t('directory.area') }}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="(m, i) in here" :key="i">
          <td>
            <input
              v-model="m.group"
              class="plain mono"
              maxlength="300"
              :aria-label="$t('directory.group')"
              :placeholder="$t('directory.groupHint')" />
          </td>
          <td>
            <select v-model="m.role" class="plain" :aria-label="`${$t('directory.role')} ${m.group}`">
              <option v-for="r in roles" :key="r.id" :value="r.id">{{ r.name }}</option>
            </select>
          </td>
          <td>
            <select v-model="m.area" class="plain" :aria-label="`${$t('directory.area')} ${m.group}`">
              <option v-for="a in areas" :key="a.id" :value="a.id">{{ a.name }}</option>
            </select>
          </td>
          <td>
            <v-btn
              :icon="mdiTrashCanOutline"
              size="small"
              variant="text"
              :aria-label="`${$t('common.delete')} ${m.group}`"
              @click="drop(m)" />
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="others" class="quiet">{{ $t('directory.others', { n: others }) }}</p>
    <v-btn variant="text" :prepend-icon="mdiPlus" @click="add">{{ $t('directory.add') }}</v-btn>
  </div>
</template>

<style scoped>
td input {
  width: 100%;
  min-width: 280px;
}
</style>
