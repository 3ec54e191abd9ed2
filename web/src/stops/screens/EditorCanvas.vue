<script setup lang="ts">
import {
  mdiFitToScreenOutline,
  mdiMagnifyMinusOutline,
  mdiMagnifyPlusOutline,
  mdiNumeric1BoxOutline,
} from '@mdi/js'
import { isGroup } from '../../canvas/registry'
import { screenOf } from './facts'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import ScreenDefs from '../../canvas/ScreenDefs.vue'
import { useCatalogue } from '../../rail/catalogue'
import { useProject } from '../../rail/project'
import { colour } from '../../theme'
import DropOffer from './DropOffer.vue'
import EditorMenu from './EditorMenu.vue'
import { type Box, GRID } from './geometry'
import SelectionFrame from './SelectionFrame.vue'
import { useDrawing } from './useDrawing'
import { useDrop } from './useDrop'
import type { Editor, PlanName } from './useEditor'
import { useKeys } from './useKeys'
import { usePointer } from './usePointer'
import { useView } from './useView'

const props = defineProps<{
  editor: Editor
  live: boolean
  args: Record<string, string>
  marks?: Map<string, 'open' | 'failed'>
}>()
const emit = defineEmits<{ point: [tag: string]; plan: [name: PlanName] }>()
const project = useProject()
const catalogue = useCatalogue()
const router = useRouter()
const frame = ref<HTMLElement>()
const root = ref<SVGGElement>()
const menu = shallowRef<{ left: number; top: number }>()
// What the Desk draws around a screen, in pixels.
const BANNER = 56
const NAVIGATION = 68
const doc = computed(() => props.editor.doc.value!)
const selection = props.editor.selection
const seen = useView(frame, doc, BANNER, NAVIGATION)
const { view, width, height, left, top, zoomBy, fit, full } = seen

const page = computed(() => ({
  width: width.value,
  height: height.value,
  viewBox: `${view.value.x} ${view.value.y} ${width.value / view.value.scale} ${height.value / view.value.scale}`,
}))
const drawing = useDrawing(
  props.editor,
  root,
  () => props.live,
  () => props.args,
)
const { drop, choose, bindTo, placeInMiddle, offer } = useDrop(props.editor, frame, seen)
const space = useKeys(props.editor, frame, () => ({
  boxes,
  zoomBy,
  fit,
  full,
  enter,
  openMenu,
  close,
  plan: (name) => emit('plan', name),
}))
const { guides, marquee, shift, boxes, boxOf, angleOf, frameBox, hit, down, move, up, cancel } = usePointer(
  props.editor,
  frame,
  seen,
  drawing,
  space,
)
defineExpose({ placeInMiddle, pose: drawing.pose, shown: drawing.shown })
onMounted(fit)
watch([width, height], ([w], [old]) => w && !old && fit())

/** Goes into a group to edit what lies in it. */
function enter(id: string) {
  const e = doc.value.elements[id]
  if (!e || !isGroup(e)) return
  props.editor.inside.value = id
  selection.value = new Set([props.editor.members.value.get(id)?.[0] ?? id])
}
function open(e: MouseEvent) {
  const under = hit(e)
  const id = under && props.editor.unit(under)
  if (!id) return
  const element = doc.value.elements[id]!
  const within = screenOf(catalogue.kind(element.kind), element)
  if (isGroup(element)) {
    props.editor.inside.value = id
    selection.value = new Set([props.editor.unit(under)])
  } else if (within) void router.push({ name: 'screens', params: { project: project.id, id: within } })
}
function openMenu(e?: MouseEvent) {
  if (e) {
    const under = hit(e)
    const id = under && props.editor.unit(under)
    if (id && !selection.value.has(id)) selection.value = new Set([id])
  }
  menu.value = {
    left: Math.min(e ? e.clientX - left.value : 200, width.value - 240),
    top: Math.min(e ? e.clientY - top.value : 120, height.value - 380),
  }
}
function close(): boolean {
  const was = cancel() || !!(menu.value || offer.value)
  menu.value = offer.value = undefined
  return was
}
function press(e: PointerEvent) {
  menu.value = undefined
  down(e)
}
function closeMenu() {
  menu.value = undefined
  frame.value!.focus()
}
function wheel(e: WheelEvent) {
  if (e.ctrlKey || e.metaKey) zoomBy(Math.exp(-e.deltaY * 0.002), e)
  else
    view.value = {
      ...view.value,
      x: view.value.x + (e.shiftKey ? e.deltaY : e.deltaX) / view.value.scale,
      y: view.value.y + (e.shiftKey ? 0 : e.deltaY) / view.value.scale,
    }
}
// What is still to be proved carries a folded corner, what failed a cross.
const placed = computed(() => [...(props.marks ?? [])].filter(([id]) => doc.value.elements[id]))
const corner = ({ x, y, w }: Box) => `M${x + w - 12} ${y - 3}V${y + 9}H${x + w}Z`
const cross = ({ x, y, w }: Box) => `M${x + w - 10} ${y - 4}l14 14m0 -14l-14 14`
const ticks = (length: number) => Array.from({ length: Math.floor(length / 40) + 1 }, (_, i) => i * 40)
</script>

<template>
  <div
    ref="frame"
    class="frame"
    tabindex="0"
    role="application"
    :aria-label="$t('editor.canvas')"
    :class="{ panning: space }"
    @pointerdown="press"
    @pointermove="move"
    @pointerup="up"
    @wheel.prevent="wheel"
    @dragover.prevent
    @drop.prevent="drop"
    @dblclick="open"
    @contextmenu.prevent="openMenu">
    <svg v-bind="page" class="screen-svg">
      <ScreenDefs />
      <defs>
        <pattern id="dots" :width="GRID" :height="GRID" patternUnits="userSpaceOnUse">
          <circle cx="0" cy="0" r=".7" fill="var(--c-quiet)" opacity=".5" />
        </pattern>
      </defs>
      <g v-if="!doc.role" class="ghost">
        <rect :width="doc.width" :height="BANNER" :y="-BANNER" />
        <text :x="16" :y="-BANNER / 2">{{ $t('editor.banner') }}</text>
        <rect :width="doc.width" :height="NAVIGATION" :y="doc.height" />
        <text :x="16" :y="doc.height + NAVIGATION / 2">{{ $t('editor.navigation') }}</text>
      </g>
      <rect
        :width="doc.width"
        :height="doc.height"
        :fill="colour(doc.background || (doc.role === 'symbol' ? 'sheet' : 'field'))" />
      <rect v-if="view.scale > 0.75" :width="doc.width" :height="doc.height" fill="url(#dots)" />
      <g ref="root" data-root />
      <g v-if="marks" class="marks">
        <path
          v-for="[id, how] in placed"
          :key="id"
          :class="how"
          :d="how === 'open' ? corner(boxOf(id)) : cross(boxOf(id))" />
      </g>
      <g class="ruler" :transform="`translate(0 ${view.y})`">
        <line
          v-for="x in ticks(doc.width)"
          :key="x"
          :x1="x"
          :x2="x"
          y1="0"
          :y2="(x % 200 ? 5 : 10) / view.scale" />
      </g>
      <g class="ruler" :transform="`translate(${view.x} 0)`">
        <line
          v-for="y in ticks(doc.height)"
          :key="y"
          :y1="y"
          :y2="y"
          x1="0"
          :x2="(y % 200 ? 5 : 10) / view.scale" />
      </g>
    </svg>
    <svg v-bind="page" class="overlay">
      <g
        v-if="!marquee"
        class="lifted"
        :style="shift && { willChange: 'transform', transform: `translate(${shift.dx}px, ${shift.dy}px)` }">
        <SelectionFrame
          :editor="editor"
          :scale="view.scale"
          :box="frameBox"
          :box-of="boxOf"
          :angle-of="angleOf"
          @grab="down" />
      </g>
      <line
        v-for="(g, i) in guides"
        :key="i"
        class="guide"
        :x1="g.vertical ? g.at : g.from - 12"
        :x2="g.vertical ? g.at : g.to + 12"
        :y1="g.vertical ? g.from - 12 : g.at"
        :y2="g.vertical ? g.to + 12 : g.at" />
      <rect
        v-if="marquee"
        class="marquee"
        :x="marquee.x"
        :y="marquee.y"
        :width="marquee.w"
        :height="marquee.h" />
    </svg>
    <DropOffer v-if="offer" :offer="offer" @choose="choose" @bind="bindTo" @cancel="offer = undefined" />
    <EditorMenu
      v-if="menu"
      :editor="editor"
      :style="{ left: menu.left + 'px', top: menu.top + 'px' }"
      @done="closeMenu"
      @into="enter"
      @plan="emit('plan', $event)"
      @point="emit('point', $event)" />
    <div class="zoom" role="group" @pointerdown.stop @dblclick.stop>
      <button :title="$t('editor.zoomOut')" :aria-label="$t('editor.zoomOut')" @click="zoomBy(1 / 1.25)">
        <v-icon :icon="mdiMagnifyMinusOutline" size="18" />
      </button>
      <button :title="$t('editor.fit')" :aria-label="$t('editor.fit')" @click="fit">
        <v-icon :icon="mdiFitToScreenOutline" size="18" />
      </button>
      <button :title="$t('editor.full')" :aria-label="$t('editor.full')" @click="full">
        <v-icon :icon="mdiNumeric1BoxOutline" size="18" />
      </button>
      <button :title="$t('editor.zoomIn')" :aria-label="$t('editor.zoomIn')" @click="zoomBy(1.25)">
        <v-icon :icon="mdiMagnifyPlusOutline" size="18" />
      </button>
    </div>
    <div class="foot">
      <span class="chip">{{ Math.round(view.scale * 100) }} %</span>
      <span class="chip">{{ doc.width }} × {{ doc.height }}</span>
      <span v-if="selection.size" class="chip">
        {{ $t('editor.selected', { n: selection.size, of: Object.keys(doc.elements).length }) }}
      </span>
      <span v-if="editor.other.value" class="chip other" role="status">
        {{ $t('editor.otherEdits', { name: editor.other.value }) }}
      </span>
    </div>
  </div>
</template>

<style scoped>
.frame {
  flex: 1;
  min-height: 0;
  position: relative;
  overflow: hidden;
  background: color-mix(in srgb, var(--c-line) 55%, var(--c-paper));
  outline: none;
  touch-action: none;
}
.frame:focus-visible {
  outline: 1px solid var(--c-spruce);
  outline-offset: -1px;
}
.panning {
  cursor: grab;
}
svg {
  display: block;
}
/* Each a layer of its own: what follows the pointer repaints nothing of the drawing. */
.screen-svg,
.overlay {
  will-change: transform;
}
.overlay {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.ghost rect {
  fill: var(--c-paper);
  stroke: var(--c-line);
}
.ghost text {
  fill: var(--c-quiet);
  font-size: 15px;
  dominant-baseline: central;
}
.guide {
  stroke: var(--c-high);
  stroke-width: 1;
  stroke-dasharray: 4 3;
  vector-effect: non-scaling-stroke;
  pointer-events: none;
}
.marquee {
  fill: color-mix(in srgb, var(--c-spruce) 12%, transparent);
  stroke: var(--c-spruce);
  stroke-width: 1;
  vector-effect: non-scaling-stroke;
}
.marks {
  pointer-events: none;
  stroke: var(--c-spruce);
  stroke-width: 1.5;
}
.marks .open {
  fill: var(--c-spruce);
  stroke: none;
}
.marks .failed {
  fill: none;
  stroke: var(--c-ink);
  stroke-width: 3;
}
.ruler {
  stroke: var(--c-quiet);
  stroke-width: 1;
}
.ruler line {
  vector-effect: non-scaling-stroke;
}
.other {
  background: var(--c-tint);
  border-color: var(--c-spruce);
}
.zoom {
  position: absolute;
  right: 12px;
  bottom: 10px;
  display: flex;
  border: 1px solid var(--c-line);
  border-radius: 4px;
  background: var(--c-sheet);
}
.zoom button {
  border: 0;
  background: none;
  padding: 3px 6px;
  cursor: pointer;
  color: var(--c-ink);
}
.zoom button:hover {
  background: var(--c-tint);
}
.foot {
  position: absolute;
  left: 12px;
  bottom: 10px;
  display: flex;
  gap: 8px;
  pointer-events: none;
}
</style>
