<script setup lang="ts">
import { shallowRef, watch } from 'vue'
import type { ViewPen } from './pens'
import type { Told } from './told'
import TrendView from './TrendView.vue'

// Recorded courses in an element of a screen: what people change there is
// theirs, until the screen is opened anew.
const props = defineProps<{
  project: string
  log?: string
  pens: ViewPen[]
  minutes: number
  figures: boolean
  /** The window that tags tell. */
  told?: Told
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
    :window="told?.value"
    :untold="!!told && !told.value"
    :figures="figures" />
</template>

<style scoped>
.page {
  height: 100%;
}
</style>
