<script setup lang="ts">
import { useIntersectionObserver } from '@vueuse/core'
import { onBeforeUnmount, ref, watch } from 'vue'
import { live } from '../live/live'
import { colour } from '../theme'
import { useAround } from './around'
import ScreenDefs from './ScreenDefs.vue'
import { Stage } from './stage'

// A small picture of a screen of the draft, drawn once it comes into sight with
// the values of that moment. Nothing in it can be acted on.
const props = defineProps<{
  project: string
  screen: string
  width: number
  height: number
  version: number
}>()
const around = useAround()
const root = ref<SVGGElement>()
const svg = ref<SVGSVGElement>()
const background = ref('none')
let close: (() => void) | undefined

function draw() {
  close?.()
  if (!root.value) return
  root.value.replaceChildren()
  const stage = new Stage(root.value, around)
  close = live.open(
    { op: 'scene', project: props.project, program: 'draft', screen: props.screen, args: {} },
    (f) => {
      if (f.scene) {
        stage.load(f.scene)
        background.value = f.scene.background ?? 'none'
      }
      if (!f.v) return
      stage.apply(f)
      close?.()
      close = undefined
    },
  )
}
const seen = ref(false)
useIntersectionObserver(svg, ([entry]) => {
  if (entry?.isIntersecting) seen.value = true
})
watch([seen, () => props.version], () => seen.value && draw())
onBeforeUnmount(() => close?.())
</script>

<template>
  <svg
    ref="svg"
    :viewBox="`0 0 ${width} ${height}`"
    class="still screen-svg"
    :style="{ background: colour(background) }"
    aria-hidden="true">
    <ScreenDefs />
    <g ref="root" />
  </svg>
</template>

<style scoped>
.still {
  display: block;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
</style>
