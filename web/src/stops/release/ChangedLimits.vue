<script setup lang="ts">
import { shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import { dayAndTime, moment } from '../../kit/moment'
import { useProject } from '../../rail/project'

/** The limits that were changed at the Desk; of each the release asks what becomes of it. */
type Choice = 'keep' | 'adopt' | 'discard'
const choices = defineModel<Record<string, Choice>>({ required: true })
const project = useProject()
const list = shallowRef<Schemas['ChangedLimit'][]>([])
watch(
  () => project.versionOf('alarm', 'type', 'equipment', 'paths'),
  async () => {
    list.value = await ask(
      api.GET('/api/projects/{project}/alarm-limits', { params: { path: project.path } }),
    ).catch(() => [])
    choices.value = Object.fromEntries(list.value.map((l) => [l.alarm, choices.value[l.alarm] ?? 'keep']))
  },
  { immediate: true },
)
</script>

<template>
  <div v-if="list.length" class="limits">
    <strong>{{ $t('release.limits') }}</strong>
    <table class="grid">
      <thead>
        <tr>
          <th>{{ $t('alarm.column.name') }}</th>
          <th>{{ $t('release.atDesk') }}</th>
          <th>{{ $t('release.released') }}</th>
          <th>{{ $t('release.draft') }}</th>
          <th>{{ $t('release.by') }}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="l in list" :key="l.alarm">
          <td class="mono">{{ l.name }}</td>
          <td class="mono">
            <strong>{{ l.limit }}</strong>
          </td>
          <td class="mono">{{ l.released }}</td>
          <td class="mono">{{ l.draft || '—' }}</td>
          <td>{{ l.person }}, {{ moment(l.at, dayAndTime) }}: {{ l.reason }}</td>
          <td>
            <label v-for="c in ['keep', 'adopt', 'discard'] as const" :key="c">
              <input v-model="choices[l.alarm]" type="radio" :name="l.alarm" :value="c" />
              {{ $t($word('release.choice', c)) }}
            </label>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.limits {
  padding: 10px 16px;
  background: var(--c-tint);
  border-bottom: 1px solid var(--c-line);
}
label {
  margin-right: 12px;
}
</style>
