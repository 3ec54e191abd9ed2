<script setup lang="ts">
import { onMounted, ref } from 'vue'
import type { Kind } from '../../api/client'
import { complete, Stage } from '../../canvas/stage'

// A kind of element as it is drawn, small.
const props = defineProps<{ kind: Kind }>()
const root = ref<SVGGElement>()
const k = props.kind
const sample: Record<string, unknown> = {
  text: k.name === 'text' ? 'Text' : '12.3',
  value: 60,
  setValue: 70,
  on: true,
  running: true,
  position: 0,
  output: 70,
  open: k.name === 'spray',
  loaded: true,
  caption: '',
}

onMounted(() => {
  const stage = new Stage(root.value!)
  const defaults = Object.fromEntries(k.props.map((p) => [p.name, p.default]))
  const w = k.name === 'bar' ? 60 : k.w
  const h = k.name === 'bar' ? 130 : k.h
  const e = complete(
    'preview',
    { kind: k.name, x: 0, y: 0, w, h, props: {} },
    {
      ...defaults,
      ...sample,
      ...(k.name === 'button' ? { caption: 'OK' } : {}),
      ...(k.name === 'lamp' ? { text: '' } : {}),
    },
  )
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
const box =
  k.name === 'bar' ? '-6 30 90 108' : k.name === 'line' ? '0 -20 160 40' : `-6 -6 ${k.w + 12} ${k.h + 12}`
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
