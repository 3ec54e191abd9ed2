<script setup lang="ts">
import { onMounted, ref, watch } from 'vue'
import { useAround } from '../../canvas/around'
import { complete, Stage } from '../../canvas/stage'
import { useCatalogue } from '../../rail/catalogue'

// An element as a look shows it, small.
const props = defineProps<{ kind: string; element: Record<string, unknown>; look: Record<string, unknown> }>()
const catalogue = useCatalogue()
const around = useAround()
const root = ref<SVGGElement>()
const k = catalogue.kind(props.kind)!
const draw = () => {
  const defaults = Object.fromEntries(k.props.map((p) => [p.name, p.default]))
  const e = complete(
    'look',
    { kind: props.kind, x: 0, y: 0, w: k.w, h: k.h, props: {} },
    { ...defaults, ...props.element, ...props.look },
  )
  new Stage(root.value!, around).load({
    screen: '',
    name: '',
    title: '',
    width: 0,
    height: 0,
    background: '',
    elements: [e],
    bindings: [],
  })
}
onMounted(draw)
watch(() => JSON.stringify([props.look, props.element]), draw)
</script>

<template>
  <svg
    :viewBox="`-4 -4 ${k.w + 8} ${Math.max(k.h, 20) + 8}`"
    width="52"
    height="34"
    class="screen-svg"
    aria-hidden="true">
    <defs />
    <g ref="root" />
  </svg>
</template>
