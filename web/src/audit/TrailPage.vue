<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { everything, type TrailFilter } from './trailFilter'
import TrailFilters from './TrailFilters.vue'
import { trailColumns } from './trailColumns'
import TrailList from './TrailList.vue'
import { useTrailList } from './useTrailList'

// The trail in an element of a screen: what the element says of it, to be narrowed further
// where it allows that.
const props = defineProps<{
  project: string
  tag?: string
  columns: string
  narrowed: boolean
  /** What the element's filters are as it is opened. */
  begin: Partial<TrailFilter>
}>()
const own = () => ({ ...everything(), ...props.begin })
const filter = ref(own())
watch(
  () => JSON.stringify(props.begin),
  () => (filter.value = own()),
)
const shown = computed(() => trailColumns(props.columns))
const list = useTrailList(
  () => props.project,
  () => filter.value,
  () => props.tag,
)
</script>

<template>
  <div class="trail">
    <div v-if="narrowed" class="tools fingers"><TrailFilters v-model="filter" :all="own()" /></div>
    <TrailList :project="project" :list="list" :columns="shown" />
  </div>
</template>

<style scoped>
.trail {
  height: 100%;
  display: flex;
  flex-direction: column;
  background: var(--c-sheet);
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  padding: 8px;
}
</style>
