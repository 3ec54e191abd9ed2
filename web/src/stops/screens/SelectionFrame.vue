<script setup lang="ts">
import { isGroup } from '../../canvas/registry'
import { computed } from 'vue'
import { type Box, type Handle, handles } from './geometry'
import type { Editor } from './useEditor'

/** What lies over the selection: outlines, and around all of it the handles. */
const props = defineProps<{
  editor: Editor
  scale: number
  box?: Box
  boxOf: (id: string) => Box
  angleOf: (id: string) => number
}>()
const emit = defineEmits<{ grab: [e: PointerEvent, handle: Handle | 'turn'] }>()
const elements = computed(() => props.editor.doc.value!.elements)
const outlines = computed(() =>
  [...props.editor.selection.value]
    .filter((id) => elements.value[id])
    .map((id) => {
      const e = elements.value[id]!
      const { x, y, w, h } = props.boxOf(id)
      const angle = props.angleOf(id)
      return {
        id,
        classes: { locked: e.locked, group: isGroup(e) },
        transform: angle ? `rotate(${angle} ${x + w / 2} ${y + h / 2})` : undefined,
        at: { x, y, width: w, height: h },
      }
    }),
)
const cursor = (h: Handle) =>
  h.sx * h.sy === 0 ? (h.sx ? 'ew-resize' : 'ns-resize') : h.sx * h.sy > 0 ? 'nwse-resize' : 'nesw-resize'
const inside = computed(() => {
  const id = props.editor.inside.value
  const b = elements.value[id] && props.boxOf(id)
  return b && { x: b.x - 4, y: b.y - 4, width: b.w + 8, height: b.h + 8 }
})
const turns = computed(() => {
  const [id, ...more] = [...props.editor.selection.value]
  const one = id && !more.length ? elements.value[id] : undefined
  return !!one && !isGroup(one)
})
</script>

<template>
  <g class="over">
    <rect
      v-for="o in outlines"
      :key="o.id"
      class="outline"
      :class="o.classes"
      :transform="o.transform"
      v-bind="o.at" />
    <rect v-if="inside" class="inside" v-bind="inside" />
    <template v-if="box">
      <rect
        v-for="h in handles"
        :key="`${h.sx}${h.sy}`"
        class="handle"
        :class="`h${h.sx}${h.sy}`"
        :width="9 / scale"
        :height="9 / scale"
        :x="box.x + (box.w * (h.sx + 1)) / 2 - 4.5 / scale"
        :y="box.y + (box.h * (h.sy + 1)) / 2 - 4.5 / scale"
        :style="{ cursor: cursor(h) }"
        @pointerdown.stop="emit('grab', $event, h)" />
      <circle
        v-if="turns"
        class="handle turn"
        :cx="box.x + box.w / 2"
        :cy="box.y - 22 / scale"
        :r="5 / scale"
        style="cursor: grab"
        @pointerdown.stop="emit('grab', $event, 'turn')" />
    </template>
  </g>
</template>

<style scoped>
.over {
  pointer-events: none;
}
.outline {
  fill: none;
  stroke: var(--c-spruce);
  stroke-width: 1.5;
  vector-effect: non-scaling-stroke;
}
.outline.locked {
  stroke: var(--c-quiet);
  stroke-dasharray: 3 3;
}
.outline.group {
  stroke-dasharray: 6 3;
}
.inside {
  fill: none;
  stroke: var(--c-spruce);
  stroke-dasharray: 2 4;
  vector-effect: non-scaling-stroke;
}
.handle {
  fill: var(--c-sheet);
  stroke: var(--c-spruce);
  stroke-width: 1.5;
  vector-effect: non-scaling-stroke;
  pointer-events: all;
}
</style>
