<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import { dayAndTime, moment } from '../kit/moment'
import PathText from '../kit/PathText.vue'
import { whatLedTo } from '../replay/where'
import RecordDetails from './RecordDetails.vue'
import { addressOf, everything, questionOf, type TrailFilter } from './trailFilter'
import TrailFilters from './TrailFilters.vue'
import { useTrailList } from './useTrailList'

// What people did, newest first; refused, unknown and cut off ones too.
const props = defineProps<{ project: string; tag?: string; tagPath?: string }>()
const emit = defineEmits<{ 'all-tags': [] }>()
const filter = ref<TrailFilter>(everything())
const { records, next, searching, problem, load } = useTrailList(
  () => props.project,
  () => filter.value,
  () => props.tag,
)
const seal = ref<Schemas['Seal']>()
const opened = ref(0)

async function verify() {
  seal.value = await ask(
    api.GET('/api/projects/{project}/audit/seal', { params: { path: { project: props.project } } }),
  ).catch(() => undefined)
}
const exported = computed(
  () =>
    `/api/projects/${props.project}/audit/export?` +
    addressOf(questionOf(filter.value, props.tag, Date.now())),
)
const time = (ms: number) =>
  moment(ms, {
    day: '2-digit',
    month: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
    fractionalSecondDigits: 3,
  })
const COLUMNS = 10
</script>

<template>
  <div class="trail">
    <div class="tools">
      <TrailFilters v-model="filter" />
      <span class="grow" />

      <v-btn variant="text" color="primary" @click="verify">{{ $t('audit.verify') }}</v-btn>
      <a
        :href="`/api/projects/${project}/audit/export?format=signed`"
        :title="$t('audit.signedWhy')"
        download>
        {{ $t('audit.signedFile') }}
      </a>
      <a v-for="f in ['csv', 'xlsx'] as const" :key="f" :href="`${exported}&format=${f}`" download>
        {{ f.toUpperCase() }}
      </a>
    </div>
    <p v-if="seal" class="own" role="status">
      <span :class="seal.whole ? 'good' : 'err'">
        {{ seal.whole ? $t('audit.whole', { n: seal.records }) : seal.problem }}
      </span>
      <template v-if="seal.whole">
        {{
          seal.elsewhere
            ? $t('audit.head', { n: seal.head, at: moment(seal.headAt, dayAndTime), place: seal.place })
            : $t('audit.alone')
        }}
      </template>
      <span v-if="seal.unwritten" class="err">{{ $t('audit.unwritten', { why: seal.unwritten }) }}</span>
    </p>
    <p v-if="tag" class="own">
      {{ $t('audit.ofTag', { path: tagPath || tag }) }}
      <button class="chip" @click="emit('all-tags')">{{ $t('audit.allTags') }}</button>
    </p>
    <div v-if="problem" class="problem" role="alert">{{ problem }}</div>
    <div class="scroll">
      <table class="grid">
        <thead>
          <tr>
            <th>{{ $t('audit.time') }}</th>
            <th>{{ $t('audit.who') }}</th>
            <th>{{ $t('audit.panel') }}</th>
            <th>{{ $t('audit.what') }}</th>
            <th>{{ $t('audit.element') }}</th>
            <th>{{ $t('audit.tag') }}</th>
            <th>{{ $t('audit.old') }}</th>
            <th>{{ $t('audit.new') }}</th>
            <th>{{ $t('audit.outcome') }}</th>
            <th>{{ $t('audit.reason') }}</th>
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
              <td class="mono">
                <a class="when" :href="whatLedTo(project, r.atMs)" :title="$t('trend.before')" @click.stop>
                  {{ time(r.atMs) }}
                </a>
              </td>
              <td>{{ r.name }}</td>
              <td>{{ r.panel }}</td>
              <td>
                {{ $t('what.' + r.what) }}
                <span v-if="r.what === 'comment'" class="quiet">
                  {{ $t('audit.about', { n: r.intent }) }}
                </span>
              </td>
              <td>{{ [r.screen, r.element].filter(Boolean).join(' › ') }}</td>
              <td class="mono"><PathText :path="r.path" /></td>
              <td class="mono value">{{ r.old }}</td>
              <td class="mono value">{{ r.new }}</td>
              <td>
                <span v-if="r.outcome || r.what === 'intent'" class="out" :class="r.outcome || 'open'">
                  {{ $t($word('outcome', r.outcome || 'open')) }}
                </span>
              </td>
              <td class="why" :title="r.reason">
                <span v-if="r.sign" class="seal" :title="$t('audit.signedBy', { name: r.sign })">✓</span>
                {{ r.reason }}
              </td>
            </tr>
            <tr v-if="opened === r.seq">
              <td :colspan="COLUMNS" :aria-label="$t('audit.signed', { n: r.seq })">
                <strong>{{ $t('audit.number') }} {{ r.seq }}</strong>
                <RecordDetails :project="project" :record="r" />
              </td>
            </tr>
          </template>
        </tbody>
      </table>
      <p v-if="searching" class="pad quiet" role="status">{{ $t('audit.searching') }}</p>
      <p v-else-if="!records.length && !problem" class="pad quiet">{{ $t('audit.none') }}</p>
      <p v-else-if="next" class="pad">
        <v-btn variant="text" color="primary" @click="load(true)">{{ $t('audit.more') }}</v-btn>
      </p>
    </div>
  </div>
</template>

<style scoped>
.when {
  color: inherit;
}
.trail {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
  padding: 8px 16px;
}
/* At the Desk a finger presses. */
.desk .tools :deep(:is(input, select, button, a)) {
  min-height: 44px;
  min-width: 44px;
  display: inline-flex;
  align-items: center;
  justify-content: center;
}
.own {
  margin: 0;
  padding: 0 16px 8px;
}
.record {
  cursor: pointer;
}
.grow {
  flex: 1;
}
.scroll {
  overflow: auto;
  flex: 1;
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
.good {
  color: var(--c-spruce);
  font-weight: 600;
}
.pad {
  padding: 0 16px;
}
</style>
