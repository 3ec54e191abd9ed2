<script setup lang="ts">
import type { TrailColumn } from './trailColumns'
import TrailTable from './TrailTable.vue'
import type { useTrailList } from './useTrailList'

// What a filter takes of the trail, with what is to be said of the search, and going on.
defineProps<{
  project: string
  list: ReturnType<typeof useTrailList>
  columns: readonly TrailColumn[]
}>()
</script>

<template>
  <div v-if="list.problem.value" class="problem" role="alert">{{ list.problem.value }}</div>
  <div class="scroll">
    <TrailTable :project="project" :records="list.records.value" :columns="columns" />
    <p v-if="list.searching.value" class="pad quiet" role="status">{{ $t('audit.searching') }}</p>
    <p v-else-if="!list.records.value.length && !list.problem.value" class="pad quiet">
      {{ $t('audit.none') }}
    </p>
    <p v-else-if="list.next.value" class="pad">
      <v-btn variant="text" color="primary" @click="list.load(true)">{{ $t('audit.more') }}</v-btn>
    </p>
  </div>
</template>

<style scoped>
.scroll {
  flex: 1;
  min-height: 0;
  overflow: auto;
}
.pad {
  padding: 0 16px;
}
</style>
