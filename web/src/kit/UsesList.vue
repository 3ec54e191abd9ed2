<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import PathText from './PathText.vue'
import { useProject } from '../rail/project'
import { stops } from '../rail/stops'
import { useWhere } from '../rail/where'

// Where a thing is used, by stop; each place a link to it.
const props = defineProps<{ id: string }>()
const project = useProject()
const { where, stopOf } = useWhere()
const uses = ref<Schemas['Use'][]>([])
const all = ref(false)

watch(
  [() => props.id, () => project.versionOf('names', 'paths')],
  async () => {
    uses.value = await ask(
      api.GET('/api/projects/{project}/uses/{id}', { params: { path: { ...project.path, id: props.id } } }),
    ).catch(() => [])
  },
  { immediate: true },
)

/** By stop in the rail's order; the same place named more than once stands once, with how often. */
const groups = computed(() =>
  stops.flatMap(({ name: stop }) => {
    const lines = new Map<string, { use: Schemas['Use']; times: number }>()
    for (const use of uses.value.filter((u) => stopOf(u.kind) === stop)) {
      const known = lines.get(use.name)
      if (known) known.times++
      else lines.set(use.name, { use, times: 1 })
    }
    return lines.size ? [{ stop, lines: [...lines.values()] }] : []
  }),
)
const shown = (list: unknown[]) => (all.value ? list.length : 6)
</script>

<template>
  <div>
    <h2>
      {{ $t('uses.title') }}
      <span class="quiet">{{ uses.length }}</span>
    </h2>
    <p v-if="!uses.length" class="quiet">{{ $t('uses.none') }}</p>
    <template v-for="g in groups" :key="g.stop">
      <h3>
        {{ $t($word('stop', g.stop)) }}
        <span class="quiet">{{ g.lines.length }}</span>
      </h3>
      <ul>
        <li v-for="l in g.lines.slice(0, shown(g.lines))" :key="l.use.name" :title="l.use.name">
          <router-link :to="where(l.use)" :class="{ mono: g.stop === 'tags' }">
            <PathText :path="l.use.name" />
          </router-link>
          <span v-if="l.times > 1" class="quiet">× {{ l.times }}</span>
        </li>
      </ul>
    </template>
    <button v-if="!all && groups.some((g) => g.lines.length > 6)" class="bare more" @click="all = true">
      {{ $t('uses.all', { n: uses.length }) }}
    </button>
  </div>
</template>

<style scoped>
h3 {
  font-size: 12px;
  font-weight: 500;
  color: var(--c-quiet);
  margin: 8px 0 0;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  gap: 6px;
  padding: 2px 0;
}
li a {
  min-width: 0;
}
.more {
  color: var(--c-spruce);
}
</style>
