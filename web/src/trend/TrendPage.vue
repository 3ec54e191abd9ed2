<script setup lang="ts">
import { shallowRef, watch } from 'vue'
import type { ViewPen } from './pens'
import TrendView from './TrendView.vue'

// Recorded courses in an element of a screen: what people change there is
// theirs, until the screen is opened anew.
const props = defineProps<{
  project: string
  log?: string
  pens: ViewPen[]
  minutes: number
  figures: boolean
}>()
const pens = shallowRef(props.pens)
watch(
  () => props.pens,
  (given) => (pens.value = given),
)
</script>

<template>
  <TrendView
    v-model:pens="pens"
    class="page"
    touch
    :project="project"
    :log="log"
    :shows="minutes * 60_000"
    :figures="figures" />
</template>

<style scoped>
.page {
  height: 100%;
}
</style>
