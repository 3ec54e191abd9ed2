<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import { byLevels } from '../../kit/levels'
import LevelLines from '../../kit/LevelLines.vue'
import { useProject } from '../../rail/project'
import ScreenSpot from './ScreenSpot.vue'

// Which screen leads where, by levels: the first screen and the others of the
// navigation, what is one step away, two, and apart from them what nothing
// leads to.
type Info = Schemas['ScreenInfo']
const WIDE = 184
const CAPTION = 44
const project = useProject()
const links = shallowRef<Schemas['ScreenLink'][]>([])
watch(
  () => project.versionOf('screen', 'site', 'role', 'names', 'paths'),
  async () => {
    const asked = api.GET('/api/projects/{project}/screen-map', { params: { path: project.path } })
    links.value = await ask(asked).catch(() => links.value)
  },
  { immediate: true },
)

const PARTS = ['symbol', 'header', 'footer']
const shown = computed(() => project.screens.filter((s) => !PARTS.includes(s.role)))
const high = (s: Info) => Math.round(Math.min(160, (WIDE * s.height) / s.width))
const map = computed(() => {
  const entries = shown.value
    .filter((s) => !s.role && !s.hidden)
    .sort((a, b) => Number(b.home) - Number(a.home))
  const nodes = shown.value.map((s) => ({ id: s.id, w: WIDE, h: high(s) + CAPTION }))
  return byLevels(
    nodes,
    links.value,
    entries.map((s) => s.id),
  )
})
const reached = computed(() => shown.value.filter((s) => map.value.spots.has(s.id)))
const lost = computed(() => shown.value.filter((s) => !map.value.spots.has(s.id)))
const lines = computed(() =>
  map.value.lines.map((l) => ({ ...l, title: [...new Set(l.links.map((x) => x.by))].join(', ') })),
)
function place(s: Info) {
  const at = map.value.spots.get(s.id)
  return at && { left: at.x + 'px', top: at.y + 'px' }
}
</script>

<template>
  <div class="map">
    <header>
      <h1>{{ $t('screenMap.title') }}</h1>
      <router-link :to="{ name: 'screens', params: { project: project.id } }">
        {{ $t('screenMap.back') }}
      </router-link>
    </header>
    <div class="field">
      <div class="plan" :style="{ width: map.width + 'px', height: map.height + 'px' }">
        <LevelLines :lines="lines" :width="map.width" :height="map.height" />
        <ScreenSpot
          v-for="s in reached"
          :key="s.id"
          :screen="s"
          :high="high(s)"
          class="at"
          :style="place(s)" />
      </div>
      <section v-if="lost.length" class="lost">
        <h2>{{ $t('screenMap.lost') }}</h2>
        <div class="row">
          <ScreenSpot v-for="s in lost" :key="s.id" :screen="s" :high="high(s)" />
        </div>
      </section>
    </div>
  </div>
</template>

<style scoped>
.map {
  display: flex;
  flex-direction: column;
  height: 100%;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  padding: 12px 24px;
  border-bottom: 1px solid var(--c-line);
  background: var(--c-sheet);
}
h1 {
  font-size: 18px;
}
.field {
  flex: 1;
  overflow: auto;
}
.plan {
  position: relative;
}
.at {
  position: absolute;
}
.lost {
  padding: 0 24px 24px;
}
.lost h2 {
  font-size: 14px;
  color: var(--c-error);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 16px;
}
</style>
