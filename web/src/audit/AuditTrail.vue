<script setup lang="ts">
import { useDebounceFn, useIntervalFn } from '@vueuse/core'
import { ref, shallowRef, watch } from 'vue'
import { api, ask, type Schemas, sentence } from '../api/client'
import { moment } from '../kit/moment'
import { whatLedTo } from '../replay/where'
import PathText from '../kit/PathText.vue'

// What people did, newest first; refused, unknown and cut off ones too.
const props = defineProps<{ project: string }>()
const records = shallowRef<Schemas['TrailRecord'][]>([])
const more = ref(false)
const text = ref('')
const seal = ref<Schemas['Seal']>()
const problem = ref('')

async function load(before = 0) {
  try {
    const page = await ask(
      api.GET('/api/projects/{project}/audit', {
        params: { path: { project: props.project }, query: { text: text.value, before, limit: 100 } },
      }),
    )
    records.value = before ? [...records.value, ...page.records] : page.records
    more.value = page.more
  } catch (e) {
    problem.value = sentence(e)
  }
}
watch(
  text,
  useDebounceFn(() => load(), 200),
)
void load()
useIntervalFn(() => records.value.length <= 100 && load(), 2000)
async function verify() {
  seal.value = await ask(
    api.GET('/api/projects/{project}/audit/seal', { params: { path: { project: props.project } } }),
  ).catch(() => undefined)
}
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
  <div class="trail">
    <div class="tools">
      <input
        v-model="text"
        class="plain find"
        :placeholder="$t('audit.filter')"
        :aria-label="$t('audit.filter')" />
      <v-btn variant="text" color="primary" @click="verify">{{ $t('audit.verify') }}</v-btn>
      <span v-if="seal" :class="seal.whole ? 'good' : 'err'" role="status">
        {{ seal.whole ? $t('audit.whole', { n: seal.records }) : seal.problem }}
      </span>
      <span class="grow" />
      <a :href="`/api/projects/${project}/audit/export`">{{ $t('audit.export') }}</a>
    </div>
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
          <tr v-for="r in records" :key="r.seq">
            <td class="mono">
              <a class="when" :href="whatLedTo(project, r.atMs)" :title="$t('trend.before')">
                {{ time(r.atMs) }}
              </a>
            </td>
            <td>{{ r.name }}</td>
            <td>{{ r.panel }}</td>
            <td>{{ $t('what.' + r.what) }}</td>
            <td>{{ [r.screen, r.element].filter(Boolean).join(' › ') }}</td>
            <td class="mono"><PathText :path="r.path" /></td>
            <td class="mono">{{ r.old }}</td>
            <td class="mono">{{ r.new }}</td>
            <td>
              <span v-if="r.outcome || r.what === 'intent'" class="out" :class="r.outcome || 'open'">
                {{ $t($word('outcome', r.outcome || 'open')) }}
              </span>
            </td>
            <td class="why" :title="r.reason">{{ r.reason }}</td>
          </tr>
        </tbody>
      </table>
      <p v-if="more" class="pad">
        <v-btn variant="text" color="primary" @click="load(records[records.length - 1]!.seq)">
          {{ $t('audit.more') }}
        </v-btn>
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
  gap: 12px;
  align-items: center;
  padding: 8px 16px;
}
.find {
  width: 260px;
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
