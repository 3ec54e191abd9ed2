<script setup lang="ts">
import { ref } from 'vue'
import { moment } from '../kit/moment'
import PathText from '../kit/PathText.vue'
import { whatLedTo } from '../replay/where'
import RecordDetails from './RecordDetails.vue'
import type { TrailColumn } from './trailColumns'
import type { TrailRecord } from './useTrailList'

// Records of the trail as a table; a line opens all of its record.
defineProps<{ project: string; records: TrailRecord[]; columns: readonly TrailColumn[] }>()
const opened = ref(0)
const time = (ms: number) =>
  moment(ms, {
    day: '2-digit',
    month: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
    fractionalSecondDigits: 3,
  })
</script>

<template>
  <table class="grid">
    <thead>
      <tr>
        <th v-for="c in columns" :key="c">{{ $t(`audit.${c}`) }}</th>
      </tr>
    </thead>
    <tbody>
      <template v-for="r in records" :key="r.seq">
        <tr
          class="record"
          tabindex="0"
          :aria-expanded="opened === r.seq"
          @click="opened = opened === r.seq ? 0 : r.seq"
          @keydown.enter="opened = opened === r.seq ? 0 : r.seq">
          <template v-for="c in columns" :key="c">
            <td v-if="c === 'time'" class="mono">
              <a class="when" :href="whatLedTo(project, r.atMs)" :title="$t('trend.before')" @click.stop>
                {{ time(r.atMs) }}
              </a>
            </td>
            <td v-else-if="c === 'who'">{{ r.name }}</td>
            <td v-else-if="c === 'panel'">{{ r.panel }}</td>
            <td v-else-if="c === 'what'">
              {{ $t('what.' + r.what) }}
              <span v-if="r.what === 'comment'" class="quiet">
                {{ $t('audit.about', { n: r.intent }) }}
              </span>
            </td>
            <td v-else-if="c === 'element'">{{ [r.screen, r.element].filter(Boolean).join(' › ') }}</td>
            <td v-else-if="c === 'tag'" class="mono"><PathText :path="r.path" /></td>
            <td v-else-if="c === 'old' || c === 'new'" class="mono value">{{ r[c] }}</td>
            <td v-else-if="c === 'outcome'">
              <span v-if="r.outcome || r.what === 'intent'" class="out" :class="r.outcome || 'open'">
                {{ $t($word('outcome', r.outcome || 'open')) }}
              </span>
            </td>
            <td v-else class="why" :title="r.reason">
              <span v-if="r.sign" class="seal" :title="$t('audit.signedBy', { name: r.sign })">✓</span>
              {{ r.reason }}
            </td>
          </template>
        </tr>
        <tr v-if="opened === r.seq">
          <td :colspan="columns.length" :aria-label="$t('audit.signed', { n: r.seq })">
            <strong>{{ $t('audit.number') }} {{ r.seq }}</strong>
            <RecordDetails :project="project" :record="r" />
          </td>
        </tr>
      </template>
    </tbody>
  </table>
</template>

<style scoped>
.when {
  color: inherit;
}
.record {
  cursor: pointer;
}
.why {
  max-width: 300px;
  min-width: 160px;
  white-space: normal !important;
  font-size: 13px;
  padding: 4px 10px !important;
  color: var(--c-quiet);
}
/* What an edit did may be long: the details have the whole. */
.value {
  max-width: 220px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.grid td {
  padding: 0 7px;
  font-size: 13px;
}
.grid th {
  padding: 6px 7px;
}
.out {
  font-weight: 650;
}
.out.confirmed {
  color: var(--c-spruce);
}
.out.refused,
.out.superseded {
  color: var(--c-quiet);
}
.out.differs,
.out.unknown {
  color: var(--c-error);
}
</style>
