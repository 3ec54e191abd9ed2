<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import TrendView from '../trend/TrendView.vue'
import LogSpans from './LogSpans.vue'
import { useLogs } from './useLogs'
import { useSpans } from './useSpans'

// The spans of a log in an element of a screen: beside their list the courses of
// the one that was chosen, and others laid under it.
const props = defineProps<{
  project: string
  program: 'draft' | 'release'
  id: string
  of?: string
  figures: boolean
}>()
const { logs } = useLogs(() => props.project, props.program)
const log = computed(() => logs.value.find((l) => l.id === props.id))
const trend = useTemplateRef('trend')
const { pens, show, compare } = useSpans(() => log.value, trend)
</script>

<template>
  <div class="spans-page">
    <template v-if="log">
      <LogSpans class="list fingers" :project="project" :log="log" :of="of" @show="show" @compare="compare" />
      <TrendView
        ref="trend"
        v-model:pens="pens"
        class="courses"
        touch
        :project="project"
        :program="program"
        :log="id"
        :figures="figures" />
    </template>
    <p v-else class="quiet none">{{ $t('log.element.none') }}</p>
  </div>
</template>

<style scoped>
.spans-page {
  display: flex;
  height: 100%;
  background: var(--c-sheet);
  border: 1px solid var(--c-line);
}
.list {
  flex: 0 0 216px;
  border-right: 1px solid var(--c-line);
}
.courses {
  flex: 1;
  min-width: 0;
}
.none {
  margin: auto;
}
</style>
