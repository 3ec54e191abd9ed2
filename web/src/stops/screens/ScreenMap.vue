<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { api, ask, type Schemas } from '../../api/client'
import { useProject } from '../../rail/project'

// Which screen leads where: navigation at the left, then what is one step away,
// two, and what nothing leads to.
const project = useProject()
const links = shallowRef<Schemas['ScreenLink'][]>([])
watch(
  () => project.version,
  async () =>
    (links.value = await ask(
      api.GET('/api/projects/{project}/screen-map', { params: { path: project.path } }),
    ).catch(() => links.value)),
  { immediate: true },
)

const columns = computed(() => {
  const shown = project.screens.filter(
    (s) => s.role !== 'symbol' && s.role !== 'header' && s.role !== 'footer',
  )
  const level = new Map<string, number>()
  for (const s of shown) if (!s.role && !s.hidden) level.set(s.id, 0)
  for (let n = 0; n < 12; n++)
    for (const l of links.value)
      if (level.get(l.from) === n && !level.has(l.to) && shown.some((s) => s.id === l.to))
        level.set(l.to, n + 1)
  const out: (typeof shown)[] = []
  for (const s of shown) {
    const at = level.get(s.id)
    if (at !== undefined) (out[at] ??= []).push(s)
  }
  return { reached: out, lost: shown.filter((s) => !level.has(s.id)) }
})
const W = 220
const H = 58
const spots = computed(() => {
  const at = new Map<string, { x: number; y: number; name: string; role: string }>()
  columns.value.reached.forEach((list, c) =>
    list.forEach((s, r) =>
      at.set(s.id, { x: 24 + c * (W + 90), y: 40 + r * (H + 22), name: s.name, role: s.role }),
    ),
  )
  return at
})
const curves = computed(() =>
  links.value.flatMap((l) => {
    const [a, b] = [spots.value.get(l.from), spots.value.get(l.to)]
    if (!a || !b || a === b) return []
    const ahead = b.x > a.x
    const [x1, y1] = [ahead ? a.x + W : a.x + W / 2, ahead ? a.y + H / 2 : a.y + H]
    const [x2, y2] = [ahead ? b.x : b.x + W / 2, ahead ? b.y + H / 2 : b.y + (b.y > a.y ? 0 : H)]
    return [
      {
        key: l.from + l.to,
        d: ahead
          ? `M${x1} ${y1}C${x1 + 45} ${y1} ${x2 - 45} ${y2} ${x2} ${y2}`
          : `M${x1} ${y1}C${x1 + 140} ${y1 + 20} ${x2 + 140} ${y2 + 20} ${x2} ${y2}`,
        title: l.by,
      },
    ]
  }),
)
const height = computed(() => Math.max(300, ...[...spots.value.values()].map((s) => s.y + H + 40)))
const width = computed(() => Math.max(600, ...[...spots.value.values()].map((s) => s.x + W + 40)))
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
      <svg :width="width" :height="height" role="img" :aria-label="$t('screenMap.title')">
        <defs>
          <marker id="tip" viewBox="0 0 8 8" refX="7" refY="4" markerWidth="8" markerHeight="8" orient="auto">
            <path d="M0 0L8 4L0 8Z" fill="var(--c-quiet)" />
          </marker>
        </defs>
        <path v-for="c in curves" :key="c.key" :d="c.d" class="curve" marker-end="url(#tip)">
          <title>{{ c.title }}</title>
        </path>
        <router-link
          v-for="[id, s] in spots"
          :key="id"
          v-slot="{ navigate }"
          :to="{ name: 'screens', params: { project: project.id, id } }"
          custom>
          <g
            class="spot"
            tabindex="0"
            role="link"
            :transform="`translate(${s.x} ${s.y})`"
            @click="navigate()"
            @keydown.enter="navigate()">
            <rect :width="W" :height="H" rx="4" :class="s.role || 'main'" />
            <text x="14" y="25">{{ s.name }}</text>
            <text x="14" y="44" class="role">{{ $t('role.' + (s.role || 'main')) }}</text>
          </g>
        </router-link>
      </svg>
      <section v-if="columns.lost.length" class="lost">
        <h2>{{ $t('screenMap.lost') }}</h2>
        <router-link
          v-for="s in columns.lost"
          :key="s.id"
          :to="{ name: 'screens', params: { project: project.id, id: s.id } }">
          {{ s.name }}
        </router-link>
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
.curve {
  fill: none;
  stroke: var(--c-quiet);
  stroke-width: 1.5;
}
.curve:hover {
  stroke: var(--c-spruce);
  stroke-width: 2.5;
}
.spot {
  cursor: pointer;
  outline: none;
}
.spot rect {
  fill: var(--c-sheet);
  stroke: var(--c-ink);
  stroke-width: 1.5;
}
.spot .popup,
.spot .faceplate {
  stroke-dasharray: 5 3;
}
.spot:hover rect,
.spot:focus-visible rect {
  stroke: var(--c-spruce);
  stroke-width: 2.5;
}
.spot text {
  fill: var(--c-ink);
  font-size: 15px;
  font-weight: 600;
}
.spot .role {
  font-size: 12px;
  font-weight: 400;
  fill: var(--c-quiet);
}
.lost {
  padding: 0 24px 24px;
  display: grid;
  gap: 6px;
}
.lost h2 {
  font-size: 14px;
  color: var(--c-error);
}
</style>
