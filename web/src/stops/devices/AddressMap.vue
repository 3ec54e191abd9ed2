<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue'
import { api, ask, type Device, type Schemas } from '../../api/client'
import { useProject } from '../../rail/project'

// What of each space is used, shared, overlapping or free.
const props = defineProps<{ device: Device }>()
const project = useProject()
const spans = shallowRef<Schemas['Span'][]>([])
watch(
  [() => props.device.id, () => project.versionOf('tag', 'device', 'type', 'equipment', 'paths')],
  async () =>
    (spans.value = await ask(
      api.GET('/api/projects/{project}/devices/{id}/map', {
        params: { path: { ...project.path, id: props.device.id } },
      }),
    ).catch(() => [])),
  { immediate: true },
)
const spaces = computed(() => [...new Set(spans.value.map((s) => s.space))])
// The last free run reaches to the end of the space and is drawn short.
const drawn = (space: string) => {
  const list = spans.value.filter((s) => s.space === space)
  const last = Math.max(1, ...list.filter((s) => s.use !== 'free').map((s) => s.to + 1))
  return list
    .filter((s) => s.from < last)
    .map((s) => ({
      ...s,
      left: (s.from / last) * 100,
      width: Math.max(0.25, ((s.to - s.from + 1) / last) * 100),
    }))
}
const sizes = (space: string) =>
  spans.value
    .filter((s) => s.space === space)
    .reduce((n, s) => (s.use === 'free' ? n : n + s.to - s.from + 1), 0)
</script>

<template>
  <div class="map">
    <p v-if="!spaces.length" class="quiet">{{ $t('map.empty') }}</p>
    <section v-for="space in spaces" :key="space">
      <h2>
        {{ space }}
        <span class="quiet">{{ $t('map.usedN', { n: sizes(space) }) }}</span>
      </h2>
      <div class="strip">
        <span
          v-for="s in drawn(space)"
          :key="s.from"
          :class="s.use"
          :style="{ left: s.left + '%', width: s.width + '%' }"
          :title="`${space}:${s.from}–${s.to} ${s.tags.join(', ')}`" />
      </div>
      <table class="grid">
        <tbody>
          <tr v-for="s in spans.filter((x) => x.space === space)" :key="s.from">
            <td class="mono">{{ s.from === s.to ? s.from : `${s.from}–${s.to}` }}</td>
            <td>
              <span class="use" :class="s.use">{{ $t($word('map', s.use)) }}</span>
            </td>
            <td class="names">
              <router-link
                v-for="(p, i) in s.tags"
                :key="s.ids[i]"
                class="mono"
                :to="{ name: 'tags', params: { project: project.id, id: s.ids[i] } }">
                {{ p }}
              </router-link>
            </td>
          </tr>
        </tbody>
      </table>
    </section>
  </div>
</template>

<style scoped>
.map {
  padding: 12px 16px;
  overflow: auto;
  display: flex;
  flex-direction: column;
  gap: 16px;
}
.strip {
  position: relative;
  height: 20px;
  border: 1px solid var(--c-line);
  border-radius: 3px;
  margin: 6px 0;
  background: var(--c-paper);
  overflow: hidden;
}
.strip span {
  position: absolute;
  top: 0;
  bottom: 0;
}
.strip .used {
  background: var(--c-spruce);
}
.strip .shared {
  background: repeating-linear-gradient(90deg, var(--c-spruce) 0 3px, transparent 3px 5px);
}
.strip .overlapping {
  background: var(--c-critical);
}
.use {
  font-weight: 600;
}
.use.free {
  color: var(--c-quiet);
  font-weight: 400;
}
.use.overlapping {
  color: var(--c-error);
}
.names {
  max-width: 560px;
  white-space: normal !important;
  padding: 4px 10px !important;
}
td {
  vertical-align: top;
  line-height: 24px;
}
</style>
