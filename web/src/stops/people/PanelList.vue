<script setup lang="ts">
import { onMounted, ref, shallowRef } from 'vue'
import { api, ask, type Schemas, sentence } from '../../api/client'
import { useSession } from '../../api/session'
import RestField from './RestField.vue'
import FieldText from '../../kit/FieldText.vue'
import { dayAndTime, moment } from '../../kit/moment'
import { useProject } from '../../rail/project'

// Enrolled browsers; this one can be enrolled here under a name.
const project = useProject()
const session = useSession()
const panels = shallowRef<Schemas['PanelRow'][]>([])
const name = ref('')
const problem = ref('')

async function load() {
  panels.value = await ask(
    api.GET('/api/projects/{project}/panels', { params: { path: project.path } }),
  ).catch(() => [])
}
onMounted(load)
async function act(what: () => Promise<unknown>) {
  problem.value = ''
  try {
    await what()
    name.value = ''
  } catch (e) {
    problem.value = sentence(e)
  }
  await session.load()
  await load()
}
const enrol = () =>
  act(() =>
    ask(
      api.POST('/api/projects/{project}/panels', {
        params: { path: project.path },
        body: { name: name.value },
      }),
    ),
  )
const put = (p: Schemas['PanelRow']) =>
  act(() =>
    ask(
      api.PUT('/api/projects/{project}/panels/{id}', {
        params: { path: { ...project.path, id: p.id } },
        body: { looks: p.looks, rest: p.rest, badges: p.badges },
      }),
    ),
  )
const remove = (id: string) =>
  act(() =>
    ask(api.DELETE('/api/projects/{project}/panels/{id}', { params: { path: { ...project.path, id } } })),
  )
</script>

<template>
  <div>
    <h2>{{ $t('panels.title') }}</h2>
    <p class="quiet">
      {{ session.me?.panel ? $t('panels.this', { name: session.me.panel }) : $t('panels.none') }}
    </p>
    <table v-if="panels.length" class="grid list">
      <tbody>
        <tr v-for="p in panels" :key="p.id">
          <td>
            <strong>{{ p.name }}</strong>
          </td>
          <td class="quiet">{{ $t('panels.by', { name: p.enrolledBy, at: moment(p.at, dayAndTime) }) }}</td>
          <td>
            <label class="check" :title="$t('panels.looksWhy')">
              <input
                type="checkbox"
                :checked="p.looks"
                @change="put({ ...p, looks: ($event.target as HTMLInputElement).checked })" />
              {{ $t('panels.looks') }}
            </label>
          </td>
          <td>
            <RestField
              :label="$t('rest.panel', { name: p.name })"
              :minutes="p.rest"
              @set="put({ ...p, rest: $event })" />
          </td>
          <td>
            <select
              class="plain badges"
              :value="p.badges"
              :aria-label="$t('badge.panel', { name: p.name })"
              @change="put({ ...p, badges: ($event.target as HTMLSelectElement).value as typeof p.badges })">
              <option v-for="b in ['', 'alone', 'pin'] as const" :key="b" :value="b">
                {{ $t(`badge.how.${b || 'none'}`) }}
              </option>
            </select>
          </td>
          <td>
            <button class="bare link" @click="remove(p.id)">{{ $t('panels.remove') }}</button>
          </td>
        </tr>
      </tbody>
    </table>
    <form v-if="!session.me?.panel" class="row" @submit.prevent="enrol">
      <FieldText :label="$t('panels.name')" :model-value="name" @typing="name = $event" />
      <v-btn type="submit" variant="outlined" color="primary" :disabled="!name.trim()">
        {{ $t('panels.enrol') }}
      </v-btn>
    </form>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
  </div>
</template>

<style scoped>
.badges {
  min-width: 132px;
}
.row {
  display: flex;
  gap: 10px;
  align-items: flex-end;
  margin-top: 8px;
  max-width: 420px;
}
.row > :first-child {
  flex: 1;
}
.list {
  max-width: 780px;
}
.link {
  color: var(--c-spruce);
}
h2 {
  margin: 24px 0 6px;
}
</style>
