<script setup lang="ts">
import { mdiPrinterOutline } from '@mdi/js'
import { computed, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import { dayAndTime, moment } from '../../kit/moment'
import { useProject } from '../../rail/project'

// The register of loop checks as it is printed.
const project = useProject()
const checks = shallowRef<Schemas['LoopCheck'][]>([])
watch(
  () => project.versionOf('tag', 'device', 'type', 'equipment', 'paths'),
  async () =>
    (checks.value = await ask(
      api.GET('/api/projects/{project}/loop-checks', { params: { path: project.path } }),
    ).catch(() => [])),
  { immediate: true },
)
const count = (r: string) => checks.value.filter((c) => (c.outdated ? 'outdated' : c.result) === r).length
const sums = computed(() =>
  (['passed', 'failed', 'untested', 'outdated'] as const).map((r) => ({ r, n: count(r) })),
)
const print = () => window.print()
</script>

<template>
  <div class="register">
    <div class="stop-head">
      <h1>{{ $t('loop.register') }}</h1>
      <span class="quiet">{{ project.overview?.site.name }} · {{ moment(new Date(), dayAndTime) }}</span>
      <span class="grow" />
      <span v-for="s in sums" :key="s.r" class="chip">{{ $t($word('check', s.r)) }} {{ s.n }}</span>
      <v-btn class="noprint" color="primary" :prepend-icon="mdiPrinterOutline" @click="print">
        {{ $t('loop.print') }}
      </v-btn>
    </div>
    <table class="grid">
      <thead>
        <tr>
          <th>{{ $t('tags.path') }}</th>
          <th>{{ $t('tags.column.check') }}</th>
          <th>{{ $t('audit.time') }}</th>
          <th>{{ $t('audit.who') }}</th>
          <th>{{ $t('loop.value') }}</th>
          <th>{{ $t('loop.raw') }}</th>
          <th>{{ $t('loop.note') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in checks" :key="c.tag">
          <td class="mono">{{ c.path }}</td>
          <td>{{ $t($word('check', c.outdated ? 'outdated' : c.result)) }}</td>
          <td>{{ c.person ? moment(c.at!, dayAndTime) : '' }}</td>
          <td>{{ c.person }}</td>
          <td class="mono">{{ c.seen }}</td>
          <td class="mono">{{ c.raw }}</td>
          <td class="wrap">{{ c.note }}</td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.register {
  height: 100%;
  overflow: auto;
  background: var(--c-sheet);
}
.wrap {
  white-space: normal !important;
}
@media print {
  .noprint {
    display: none;
  }
  .register {
    overflow: visible;
    height: auto;
  }
  .grid th {
    position: static;
  }
}
</style>
<style>
@media print {
  html,
  body,
  #app,
  .v-application,
  .v-application__wrap,
  .shell,
  .side,
  main {
    overflow: visible !important;
    height: auto !important;
    display: block !important;
    background: #fff !important;
    color: #000 !important;
  }
  .rail,
  .head,
  .watch,
  .notice {
    display: none !important;
  }
}
</style>
