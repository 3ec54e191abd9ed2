<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useProject } from '../../rail/project'
import TagPane from '../../tags/TagPane.vue'
import TrendView from '../../trend/TrendView.vue'

// What the plant did: any tag over any time, with nothing to set up before.
const project = useProject()
const route = useRoute()
const router = useRouter()
const MOST = 40
const last = useLocalStorage<Record<string, string[]>>('rr-trend', {})
const tags = computed<string[]>({
  get: () =>
    typeof route.query.tags === 'string'
      ? route.query.tags.split(',').filter(Boolean)
      : (last.value[project.id] ?? []),
  set: (list) => {
    const most = list.slice(0, MOST)
    last.value = { ...last.value, [project.id]: most }
    void router.replace({ query: { ...route.query, tags: most.join(',') } })
  },
})
const taken = computed(() => new Set(tags.value))
const kept = computed(() => project.overview?.stops.find((s) => s.stop === 'history')?.things ?? 0)
function take(id: string) {
  tags.value = taken.value.has(id) ? tags.value.filter((x) => x !== id) : [...tags.value, id]
}
</script>

<template>
  <section class="stop">
    <div class="stop-head">
      <h1>{{ $t('stop.history') }}</h1>
      <span class="quiet">{{ $t('history.kept', { n: kept }) }}</span>
    </div>
    <div class="halves">
      <div class="side"><TagPane :taken="taken" @take="take" /></div>
      <TrendView v-model:tags="tags" class="view" :project="project.id" />
    </div>
  </section>
</template>

<style scoped>
.halves {
  display: flex;
  flex: 1;
  min-height: 0;
}
.side {
  width: 236px;
  flex: none;
  display: flex;
  border-right: 1px solid var(--c-line);
  background: var(--c-sheet);
}
.view {
  flex: 1;
}
</style>
