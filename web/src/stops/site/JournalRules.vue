<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import { PRIORITIES } from '../../alarms/useAlarms'
import type { Schemas } from '../../api/client'
import { useProject } from '../../rail/project'

/** What the journal keeps of each kind of event beside the alarms. */
type Rule = Schemas['JournalRule']
const project = useProject()
const { t } = useI18n()
const kinds = ['event', 'action', 'person', 'link', 'trouble', 'system'] as const
const rule = (kind: string): Rule => project.overview?.site.journal?.[kind] ?? {}
const shown = (r: Rule) => (r.out ? 'out' : (r.priority ?? ''))
function set(kind: string, how: string) {
  const next = { ...project.overview?.site.journal }
  if (how === '') delete next[kind]
  else next[kind] = how === 'out' ? { out: true } : { priority: how as 'low' }
  void project.edit(t('site.edit'), [
    { kind: 'site', id: 'site', path: '/journal', value: Object.keys(next).length ? next : undefined },
  ])
}
</script>

<template>
  <div class="block">
    <h2>{{ $t('site.journal') }}</h2>
    <p class="quiet">{{ $t('site.journalWhy') }}</p>
    <table class="grid">
      <tbody>
        <tr v-for="k in kinds" :key="k">
          <td>{{ $t($word('alarm.entry', k)) }}</td>
          <td>
            <select
              class="plain"
              :value="shown(rule(k))"
              :aria-label="$t($word('alarm.entry', k))"
              @change="set(k, ($event.target as HTMLSelectElement).value)">
              <option value="">{{ $t('site.kept') }}</option>
              <option v-for="p in PRIORITIES" :key="p" :value="p">
                {{ $t($word('alarm.priority', p)) }}
              </option>
              <option value="out">{{ $t('site.leftOut') }}</option>
            </select>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.block {
  max-width: 720px;
}
td:first-child {
  width: 320px;
}
</style>
