<script setup lang="ts">
import { useDebounceFn, useLocalStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, ask, type TagRow } from '../../api/client'
import FilterBox from '../../kit/FilterBox.vue'
import PathText from '../../kit/PathText.vue'
import { useProject } from '../../rail/project'
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
    last.value = { ...last.value, [project.id]: list.slice(0, MOST) }
    void router.replace({ query: { ...route.query, tags: list.slice(0, MOST).join(',') } })
  },
})

const text = ref('')
const total = ref(0)
const hits = ref<TagRow[]>([])
const look = useDebounceFn(async () => {
  const page = await ask(
    api.GET('/api/projects/{project}/tags', {
      params: { path: project.path, query: { text: text.value, limit: 200 } },
    }),
  ).catch(() => undefined)
  hits.value = page?.rows ?? []
  total.value = page?.total ?? 0
}, 120)
watch([text, () => project.version], look, { immediate: true })
const kept = computed(() => project.overview?.stops.find((s) => s.stop === 'history')?.things ?? 0)
const shown = computed(() => new Set(tags.value))
function toggle(id: string) {
  tags.value = shown.value.has(id) ? tags.value.filter((x) => x !== id) : [...tags.value, id]
}
function drag(id: string, e: DragEvent) {
  e.dataTransfer?.setData('application/x-rr-tags', JSON.stringify([id]))
}
</script>

<template>
  <section class="stop">
    <div class="stop-head">
      <h1>{{ $t('stop.history') }}</h1>
      <span class="quiet">{{ $t('history.kept', { n: kept }) }}</span>
    </div>
    <div class="halves">
      <div class="side">
        <FilterBox v-model="text" class="words" :label="$t('history.filter')" />
        <ul>
          <li v-for="r in hits" :key="r.tag.id">
            <button
              class="bare mono"
              draggable="true"
              :class="{ on: shown.has(r.tag.id) }"
              :aria-pressed="shown.has(r.tag.id)"
              @click="toggle(r.tag.id)"
              @dragstart="drag(r.tag.id, $event)">
              <PathText :path="r.path" :note="r.tag.description" />
            </button>
          </li>
          <li v-if="total > hits.length" class="quiet more">
            {{ $t('history.more', { n: total - hits.length }) }}
          </li>
        </ul>
      </div>
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
  width: 214px;
  flex: none;
  display: flex;
  flex-direction: column;
  border-right: 1px solid var(--c-line);
  background: var(--c-sheet);
}
.words {
  margin: 8px;
}
.side ul {
  list-style: none;
  margin: 0;
  padding: 0;
  overflow: auto;
  flex: 1;
}
.side button {
  width: 100%;
  text-align: left;
  padding: 3px 12px;
  font-size: 13px;
}
.side button:hover {
  background: var(--c-paper);
}
.side button.on {
  background: var(--c-tint);
  font-weight: 700;
}
.more {
  padding: 6px 12px;
}
.view {
  flex: 1;
}
</style>
