<script setup lang="ts">
import { ref, watch } from 'vue'
import { api, ask, type Schemas } from '../api/client'
import { useProject } from '../rail/project'

// Where a thing is used; each place a link to it.
const props = defineProps<{ id: string }>()
const project = useProject()
const uses = ref<Schemas['Use'][]>([])
const all = ref(false)

watch([() => props.id, () => project.version], async () => {
  uses.value = await ask(api.GET('/api/projects/{project}/uses/{id}', { params: { path: { ...project.path, id: props.id } } })).catch(() => [])
}, { immediate: true })

function to(u: Schemas['Use']) {
  if (u.kind === 'alarm') return { name: 'alarms', params: { project: project.id, id: u.id } }
  if (u.kind === 'screen') return { name: 'screens', params: { project: project.id, id: u.id, element: u.place.split('/')[2] } }
  return { name: 'tags', params: { project: project.id, id: u.id } }
}
</script>

<template>
  <div>
    <h2>{{ $t('uses.title') }} <span class="quiet">{{ uses.length }}</span></h2>
    <p v-if="!uses.length" class="quiet">{{ $t('uses.none') }}</p>
    <ul><li v-for="u in all ? uses : uses.slice(0, 12)" :key="u.id + u.place"><router-link :to="to(u)" :class="{ mono: u.kind === 'tag' }">{{ u.name }}</router-link></li></ul>
    <button v-if="uses.length > 12 && !all" class="bare more" @click="all = true">{{ $t('uses.more', { n: uses.length - 12 }) }}</button>
  </div>
</template>

<style scoped>
ul { list-style: none; margin: 6px 0 0; padding: 0; }
li { padding: 2px 0; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.more { color: var(--c-spruce); }
</style>
