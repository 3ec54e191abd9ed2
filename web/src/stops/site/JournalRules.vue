<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import { PRIORITIES } from '../../alarms/useAlarms'
import { word } from '../../i18n/word'
import { useCatalogue } from '../../rail/catalogue'
import type { Schemas } from '../../api/client'
import { useProject } from '../../rail/project'

/** What the journal keeps of each kind of event beside the alarms. */
type Rule = Schemas['JournalRule']
const project = useProject()
const { t } = useI18n()
const catalogue = useCatalogue()
/** Kinds of events, and the failures, each of which may differ from its kind. */
const parts = [
  { own: false, list: () => catalogue.entries, word: (k: string) => t(word('alarm.entry', k as 'link')) },
  { own: true, list: () => catalogue.failures, word: (k: string) => t(word('alarm.what', k as 'failed')) },
]
const rule = (kind: string): Rule | undefined => project.overview?.site.journal?.[kind]
const shown = (r?: Rule) => (!r ? '' : r.out ? 'out' : (r.priority ?? 'kept'))
function set(kind: string, how: string) {
  const next = { ...project.overview?.site.journal }
  if (how === '') delete next[kind]
  else if (how === 'kept') next[kind] = {}
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
      <tbody v-for="part in parts" :key="String(part.own)">
        <tr v-if="part.own">
          <th colspan="2">{{ $t('site.journalFailures') }}</th>
        </tr>
        <tr v-for="k in part.list()" :key="k">
          <td>{{ part.word(k) }}</td>
          <td>
            <select
              class="plain"
              :value="shown(rule(k))"
              :aria-label="part.word(k)"
              @change="set(k, ($event.target as HTMLSelectElement).value)">
              <option value="">{{ part.own ? $t('site.asKind') : $t('site.kept') }}</option>
              <option v-if="part.own" value="kept">{{ $t('site.kept') }}</option>
              <option v-for="p in PRIORITIES" :key="p" :value="p">
                {{ $t(word('alarm.priority', p)) }}
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
