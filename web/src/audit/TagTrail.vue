<script setup lang="ts">
import { shallowRef } from 'vue'
import { api, ask } from '../api/client'
import { dayAndTime, moment } from '../kit/moment'
import type { TrailRecord } from './useTrailList'

/** What was done to a tag lately, and by whom; it is asked for when it is opened. */
const props = defineProps<{ project: string; tag: string }>()
const MOST = 12
const records = shallowRef<TrailRecord[]>()

async function open(e: Event) {
  if (!(e.target as HTMLDetailsElement).open) return
  const page = await ask(
    api.GET('/api/projects/{project}/audit', {
      params: { path: { project: props.project }, query: { tag: props.tag, limit: MOST } },
    }),
  ).catch(() => undefined)
  records.value = page?.records ?? []
}
</script>

<template>
  <details @toggle="open">
    <summary>{{ $t('audit.done') }}</summary>
    <p v-if="records && !records.length" class="quiet">{{ $t('audit.nothing') }}</p>
    <div v-for="r in records ?? []" :key="r.seq" class="line">
      <span class="quiet">{{ moment(r.atMs, dayAndTime) }} · {{ r.name }}</span>
      <span>
        {{ $t('what.' + r.what) }}
        <span class="mono">{{ [r.old, r.new].filter(Boolean).join(' → ') }}</span>
        <template v-if="r.outcome">· {{ $t($word('outcome', r.outcome)) }}</template>
        <template v-if="r.reason">· {{ r.reason }}</template>
      </span>
    </div>
    <slot v-if="records?.length" />
  </details>
</template>

<style scoped>
.line {
  display: grid;
  padding: 4px 0;
  border-bottom: 1px solid var(--c-line);
  overflow-wrap: anywhere;
}
</style>
