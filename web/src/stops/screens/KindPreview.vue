<script setup lang="ts">
import { onMounted, ref } from 'vue'
import type { Kind } from '../../api/client'
import { useAround } from '../../canvas/around'
import { kindOf } from '../../canvas/registry'
import { complete, Stage } from '../../canvas/stage'

// A kind of element as it is drawn, small.
const props = defineProps<{ kind: Kind }>()
const around = useAround()
const root = ref<SVGGElement>()
const k = props.kind
const sample = kindOf(k.name).sample
const w = sample?.w ?? k.w
const h = sample?.h ?? k.h
/** What shows most of them at their best. */
const usual = {
  text: '12.3',
  value: 60,
  setValue: 70,
  on: true,
  running: true,
  position: 0,
  output: 70,
  open: false,
  loaded: true,
  caption: '',
  stroke: 'ink',
}

onMounted(() => {
  const stage = new Stage(root.value!, around)
  const defaults = Object.fromEntries(k.props.map((p) => [p.name, p.default]))
  const props = { ...defaults, ...usual, ...sample?.props }
  const e = complete('preview', { kind: k.name, x: 0, y: 0, w, h, props: {} }, props)
  stage.load({
    screen: '',
    name: '',
    title: '',
    width: 0,
    height: 0,
    background: '',
    elements: [e],
    bindings: [],
  })
})
const box = sample?.box ?? `-6 -6 ${k.w + 12} ${k.h + 12}`
</script>

<template>
  <svg
    :viewBox="box"
    width="46"
    height="32"
    class="screen-svg"
    aria-hidden="true"
    style="pointer-events: none">
    <g ref="root" />
  </svg>
</template>
