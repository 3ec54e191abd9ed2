<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Element } from '../../api/client'
import ScreenDefs from '../../canvas/ScreenDefs.vue'
import { useProject } from '../../rail/project'
import { colour } from '../../theme'
import DropOffer from './DropOffer.vue'
import { around, type Box, type Guide, type Handle, handles, resized, snap, touches, within } from './geometry'
import { useDrawing } from './useDrawing'
import type { Editor } from './useEditor'
import { useView } from './useView'

const props = defineProps<{ editor: Editor; live: boolean }>()
const project = useProject()
const { t } = useI18n()
const frame = ref<HTMLElement>()
const root = ref<SVGGElement>()
const guides = shallowRef<Guide[]>([])
const marquee = shallowRef<Box>()
const moving = shallowRef<Map<string, Box>>()
const space = ref(false)
const offer = shallowRef<{ tags: string[]; x: number; y: number; left: number; top: number }>()
const GRID = 8
// What the Desk draws around a screen, in pixels.
const BANNER = 56
const NAVIGATION = 68
const doc = computed(() => props.editor.doc.value!)
const selection = props.editor.selection
const { view, width, height, toScreen, zoomBy, fit } = useView(frame, doc, BANNER, NAVIGATION)

function placeInMiddle(kind: string) {
  const k = project.kind(kind)!
  void props.editor.add(t('editor.placed'), [props.editor.make(kind, doc.value.width / 2 - k.w / 2, doc.value.height / 2 - k.h / 2)])
}
defineExpose({ zoomBy, fit, placeInMiddle })

const { draw, nodeOf } = useDrawing(props.editor, root, () => props.live)
onMounted(fit)
watch([width, height], ([w], [old]) => w && !old && fit())

const boxOf = (id: string): Box => moving.value?.get(id) ?? doc.value.elements[id]!
const frameBox = computed(() => around([...selection.value].filter((id) => doc.value.elements[id]).map(boxOf)))

// Pointer: pan, select, marquee, move, resize.
type Drag = { kind: 'pan' | 'marquee' | 'move' | 'size'; x: number; y: number; from: Map<string, Box>; frame?: Box; handle?: Handle; view: { x: number; y: number }; started: boolean }
let drag: Drag | undefined

function down(e: PointerEvent, handle?: Handle) {
  if (e.button > 1) return
  frame.value!.focus()
  const p = toScreen(e)
  const base = { x: p.x, y: p.y, from: new Map<string, Box>(), view: { x: view.value.x, y: view.value.y }, started: false }
  ;(e.currentTarget as globalThis.Element).setPointerCapture?.(e.pointerId)
  if (e.button === 1 || space.value) {
    drag = { ...base, kind: 'pan', x: e.clientX, y: e.clientY }
    return
  }
  if (handle) {
    drag = { ...base, kind: 'size', handle, frame: frameBox.value, from: boxes() }
    return
  }
  const id = hit(e, p)
  if (!id) {
    if (!e.shiftKey) selection.value = new Set()
    drag = { ...base, kind: 'marquee' }
    return
  }
  if (e.shiftKey || e.ctrlKey) {
    const next = new Set(selection.value)
    if (!next.delete(id)) next.add(id)
    selection.value = next
  } else if (!selection.value.has(id)) selection.value = new Set([id])
  drag = { ...base, kind: 'move', from: boxes(), frame: frameBox.value }
}
const boxes = () => new Map([...selection.value].filter((id) => !doc.value.elements[id]?.locked).map((id) => [id, { ...boxOf(id) }]))

/** The element under the pointer; one that covers others gives way on Alt. */
function hit(e: PointerEvent, p: { x: number; y: number }): string | undefined {
  const under = [...props.editor.order.value].reverse().filter((id) => {
    const b = doc.value.elements[id]!
    return p.x >= b.x - 3 && p.x <= b.x + b.w + 3 && p.y >= b.y - 3 && p.y <= b.y + Math.max(b.h, 6) + 3
  })
  if (e.altKey && under.length > 1) {
    const at = under.findIndex((id) => selection.value.has(id))
    return under[(at + 1) % under.length]
  }
  return under[0]
}

function move(e: PointerEvent) {
  if (!drag) return
  if (drag.kind === 'pan') {
    view.value = { ...view.value, x: drag.view.x - (e.clientX - drag.x) / view.value.scale, y: drag.view.y - (e.clientY - drag.y) / view.value.scale }
    return
  }
  const p = toScreen(e)
  let dx = p.x - drag.x
  let dy = p.y - drag.y
  if (!drag.started && Math.hypot(dx, dy) * view.value.scale < 3) return
  drag.started = true
  if (drag.kind === 'marquee') {
    marquee.value = { x: Math.min(drag.x, p.x), y: Math.min(drag.y, p.y), w: Math.abs(dx), h: Math.abs(dy) }
    return
  }
  const others = Object.entries(doc.value.elements).filter(([id]) => !drag!.from.has(id)).map(([, b]) => b).slice(0, 400)
  if (drag.kind === 'move' && drag.frame) {
    const s = e.altKey ? { dx: 0, dy: 0, guides: [] } : snap({ ...drag.frame, x: drag.frame.x + dx, y: drag.frame.y + dy }, others, GRID, 5 / view.value.scale)
    guides.value = s.guides
    dx += s.dx
    dy += s.dy
    const next = new Map<string, Box>()
    for (const [id, b] of drag.from) {
      const q = { ...b, x: b.x + dx, y: b.y + dy }
      next.set(id, q)
      nodeOf(id)?.setAttribute('transform', `translate(${q.x} ${q.y})`)
    }
    moving.value = next
  } else if (drag.kind === 'size' && drag.frame) {
    const g = e.altKey ? 1 : GRID
    const f = resized(drag.frame, drag.handle!, Math.round(dx / g) * g, Math.round(dy / g) * g)
    const next = new Map<string, Box>()
    for (const [id, b] of drag.from) {
      const q = within(drag.frame, f, b)
      next.set(id, q)
      draw(id, { ...doc.value.elements[id]!, ...q })
    }
    moving.value = next
  }
}
function up() {
  const d = drag
  drag = undefined
  guides.value = []
  if (marquee.value) {
    const m = marquee.value
    marquee.value = undefined
    selection.value = new Set([...selection.value, ...Object.entries(doc.value.elements).filter(([, b]) => touches(m, b)).map(([id]) => id)])
    return
  }
  const moved = moving.value
  moving.value = undefined
  if (!d?.started || !moved) return
  const changes = new Map([...moved].map(([id, b]) => [id, d.kind === 'move' ? { x: b.x, y: b.y } : b]))
  void props.editor.place(d.kind === 'move' ? t('editor.moved', { n: moved.size }) : t('editor.resized', { n: moved.size }), changes)
}

function wheel(e: WheelEvent) {
  if (e.ctrlKey || e.metaKey) zoomBy(Math.exp(-e.deltaY * 0.002), e)
  else view.value = { ...view.value, x: view.value.x + (e.shiftKey ? e.deltaY : e.deltaX) / view.value.scale, y: view.value.y + (e.shiftKey ? 0 : e.deltaY) / view.value.scale }
}

/** Keys work wherever the focus is in the editor, but for fields and what Space and Tab do to buttons. */
function keys(e: KeyboardEvent) {
  const target = e.target as HTMLElement
  if (target.isContentEditable || ['INPUT', 'SELECT', 'TEXTAREA'].includes(target.tagName)) return
  if ((e.key === ' ' || e.key === 'Tab') && target !== frame.value && target !== document.body) return
  const ctrl = e.ctrlKey || e.metaKey
  const key = e.key.toLowerCase()
  const arrows: Record<string, [number, number]> = { arrowleft: [-1, 0], arrowright: [1, 0], arrowup: [0, -1], arrowdown: [0, 1] }
  const by = e.altKey ? 1 : e.shiftKey ? 10 * GRID : GRID
  if (key === ' ') space.value = true
  else if (arrows[key] && selection.value.size) {
    const [sx, sy] = arrows[key]!
    void props.editor.place(t('editor.moved', { n: selection.value.size }), new Map([...boxes()].map(([id, b]) => [id, { x: b.x + sx * by, y: b.y + sy * by }])))
  } else if (key === 'delete' || key === 'backspace') void props.editor.remove()
  else if (key === 'escape') selection.value = new Set()
  else if (ctrl && key === 'a') selection.value = new Set(Object.keys(doc.value.elements))
  else if (ctrl && key === 'c') props.editor.copy()
  else if (ctrl && key === 'x') { props.editor.copy(); void props.editor.remove() }
  else if (ctrl && key === 'v') void props.editor.paste()
  else if (ctrl && key === 'd') void props.editor.duplicate()
  else if (ctrl && (key === '+' || key === '=')) zoomBy(1.25)
  else if (ctrl && key === '-') zoomBy(0.8)
  else if (ctrl && key === '0') fit()
  else if (key === 'tab' && props.editor.order.value.length) {
    const all = props.editor.order.value
    const at = all.findIndex((id) => selection.value.has(id))
    selection.value = new Set([all[(at + (e.shiftKey ? -1 : 1) + all.length) % all.length]!])
  } else return
  e.preventDefault()
}
useEventListener('keydown', keys)
useEventListener('keyup', (e: KeyboardEvent) => e.key === ' ' && (space.value = false))

// Dropping tags and kinds.
async function drop(e: DragEvent) {
  const p = toScreen(e)
  const kind = e.dataTransfer?.getData('application/x-rr-kind')
  const tags = JSON.parse(e.dataTransfer?.getData('application/x-rr-tags') || '[]') as string[]
  frame.value!.focus()
  if (kind) {
    const k = project.kind(kind)!
    return void props.editor.add(t('editor.placed'), [props.editor.make(kind, p.x - k.w / 2, p.y - k.h / 2)])
  }
  const r = frame.value!.getBoundingClientRect()
  if (tags.length) offer.value = { tags, x: p.x, y: p.y, left: Math.min(e.clientX - r.left, width.value - 330), top: Math.min(e.clientY - r.top, height.value - 110) }
}
async function place(kind: string) {
  const o = offer.value!
  offer.value = undefined
  const rows = await Promise.all(o.tags.map((id) => ask(api.GET('/api/projects/{project}/tags/{id}', { params: { path: { ...project.path, id } } }))))
  if (kind !== 'table') return void props.editor.add(t('editor.placed'), rows.map((row, i) => props.editor.make(kind, o.x, o.y + i * ((project.kind(kind)?.h ?? 40) + 24), row)))
  // Many tags lie as a table of label and readout.
  const list: Element[] = []
  rows.forEach((row, i) => {
    const y = o.y + i * 32
    list.push({ kind: 'text', x: o.x, y, w: 200, h: 24, z: 0, props: { text: row.tag.description || row.path } })
    list.push({ kind: 'readout', x: o.x + 208, y, w: 120, h: 24, z: 0, props: { tag: row.tag.id, size: 16, align: 'right' } })
  })
  void props.editor.add(t('editor.placed'), list)
}
const ticks = (length: number) => Array.from({ length: Math.floor(length / 40) + 1 }, (_, i) => i * 40)
</script>

<template>
  <div
    ref="frame" class="frame" tabindex="0" role="application" :aria-label="$t('editor.canvas')" :class="{ panning: space }"
    @pointerdown="down($event)" @pointermove="move" @pointerup="up" @wheel.prevent="wheel" @dragover.prevent @drop.prevent="drop"
  >
    <svg :width="width" :height="height" :viewBox="`${view.x} ${view.y} ${width / view.scale} ${height / view.scale}`" class="screen-svg">
      <ScreenDefs />
      <defs><pattern id="dots" :width="GRID" :height="GRID" patternUnits="userSpaceOnUse"><circle cx="0" cy="0" r=".7" fill="var(--c-quiet)" opacity=".5" /></pattern></defs>
      <g class="ghost"><rect :width="doc.width" :height="BANNER" :y="-BANNER" /><text :x="16" :y="-BANNER / 2">{{ $t('editor.banner') }}</text><rect :width="doc.width" :height="NAVIGATION" :y="doc.height" /><text :x="16" :y="doc.height + NAVIGATION / 2">{{ $t('editor.navigation') }}</text></g>
      <rect :width="doc.width" :height="doc.height" :fill="colour(doc.background || 'field')" /><rect v-if="view.scale > 0.75" :width="doc.width" :height="doc.height" fill="url(#dots)" />
      <g ref="root" />
      <g v-if="!marquee" class="over">
        <rect v-for="id in [...selection].filter((x) => doc.elements[x])" :key="id" class="outline" v-bind="{ x: boxOf(id).x, y: boxOf(id).y, width: boxOf(id).w, height: boxOf(id).h }" />
        <template v-if="frameBox">
          <rect
            v-for="h in handles" :key="`${h.sx}${h.sy}`" class="handle" :class="`h${h.sx}${h.sy}`" :width="9 / view.scale" :height="9 / view.scale" :x="frameBox.x + (frameBox.w * (h.sx + 1)) / 2 - 4.5 / view.scale" :y="frameBox.y + (frameBox.h * (h.sy + 1)) / 2 - 4.5 / view.scale"
            :style="{ cursor: h.sx * h.sy === 0 ? (h.sx ? 'ew-resize' : 'ns-resize') : h.sx * h.sy > 0 ? 'nwse-resize' : 'nesw-resize' }" @pointerdown.stop="down($event, h)" @pointermove.stop="move" @pointerup.stop="up"
          />
        </template>
        <line v-for="(g, i) in guides" :key="i" class="guide" :x1="g.vertical ? g.at : g.from - 12" :x2="g.vertical ? g.at : g.to + 12" :y1="g.vertical ? g.from - 12 : g.at" :y2="g.vertical ? g.to + 12 : g.at" />
      </g>
      <rect v-if="marquee" class="marquee" :x="marquee.x" :y="marquee.y" :width="marquee.w" :height="marquee.h" />
      <g class="ruler" :transform="`translate(0 ${view.y})`"><line v-for="x in ticks(doc.width)" :key="x" :x1="x" :x2="x" y1="0" :y2="(x % 200 ? 5 : 10) / view.scale" /></g>
      <g class="ruler" :transform="`translate(${view.x} 0)`"><line v-for="y in ticks(doc.height)" :key="y" :y1="y" :y2="y" x1="0" :x2="(y % 200 ? 5 : 10) / view.scale" /></g>
    </svg>
    <DropOffer v-if="offer" :tags="offer.tags" :style="{ left: offer.left + 'px', top: offer.top + 'px' }" @choose="place" @cancel="offer = undefined" />
    <div class="foot"><span class="chip">{{ Math.round(view.scale * 100) }} %</span><span class="chip">{{ doc.width }} × {{ doc.height }}</span><span v-if="selection.size" class="chip">{{ $t('editor.selected', { n: selection.size, of: Object.keys(doc.elements).length }) }}</span></div>
  </div>
</template>

<style scoped>
.frame { flex: 1; min-height: 0; position: relative; overflow: hidden; background: color-mix(in srgb, var(--c-line) 55%, var(--c-paper)); outline: none; touch-action: none; }
.frame:focus-visible { outline: 1px solid var(--c-spruce); outline-offset: -1px; }
.panning { cursor: grab; }
svg { display: block; }
.ghost rect { fill: var(--c-paper); stroke: var(--c-line); }
.ghost text { fill: var(--c-quiet); font-size: 15px; dominant-baseline: central; }
.over { pointer-events: none; }
.outline { fill: none; stroke: var(--c-spruce); stroke-width: 1.5; vector-effect: non-scaling-stroke; }
.handle { fill: var(--c-sheet); stroke: var(--c-spruce); stroke-width: 1.5; vector-effect: non-scaling-stroke; pointer-events: all; }
.guide { stroke: var(--c-high); stroke-width: 1; stroke-dasharray: 4 3; vector-effect: non-scaling-stroke; }
.marquee { fill: color-mix(in srgb, var(--c-spruce) 12%, transparent); stroke: var(--c-spruce); stroke-width: 1; vector-effect: non-scaling-stroke; }
.ruler { stroke: var(--c-quiet); stroke-width: 1; }
.ruler line { vector-effect: non-scaling-stroke; }
.foot { position: absolute; left: 12px; bottom: 10px; display: flex; gap: 8px; pointer-events: none; }
</style>
