<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, ask, type Element, type Schemas } from '../../api/client'
import ScreenDefs from '../../canvas/ScreenDefs.vue'
import { useProject } from '../../rail/project'
import { colour } from '../../theme'
import DropOffer from './DropOffer.vue'
import { around, type Box, type Guide, type Handle, handles, resized, snap, touches, within } from './geometry'
import { useDrawing } from './useDrawing'
import type { Editor } from './useEditor'
import { useView } from './useView'

const props = defineProps<{ editor: Editor; live: boolean; args: Record<string, string> }>()
const emit = defineEmits<{ point: [tag: string]; substitute: [] }>()
type ScreenPoint = Schemas['ScreenPoint']
const project = useProject()
const { t } = useI18n()
const router = useRouter()
const frame = ref<HTMLElement>()
const root = ref<SVGGElement>()
const guides = shallowRef<Guide[]>([])
const marquee = shallowRef<Box>()
const moving = shallowRef<Map<string, Box>>()
const space = ref(false)
const offer = shallowRef<{ tags: string[]; points: ScreenPoint[]; x: number; y: number; left: number; top: number }>()
const menu = shallowRef<{ left: number; top: number }>()
const turning = ref<number>()
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


const { draw, nodeOf, pose, shown } = useDrawing(props.editor, root, () => props.live, () => props.args)
defineExpose({ zoomBy, fit, placeInMiddle, pose, shown })
onMounted(fit)
watch([width, height], ([w], [old]) => w && !old && fit())

const boxOf = (id: string): Box => {
  const at = moving.value
  if (!at) return props.editor.boxOf(id)
  return at.get(id) ?? around(props.editor.whole([id]).flatMap((m) => (at.has(m) && doc.value.elements[m]!.kind !== 'group' ? [at.get(m)!] : []))) ?? props.editor.boxOf(id)
}
const angleOf = (id: string) => (selection.value.size === 1 && turning.value !== undefined ? turning.value : (doc.value.elements[id]?.angle ?? 0))
const frameBox = computed(() => around([...selection.value].filter((id) => doc.value.elements[id]).map(boxOf)))

// Pointer: pan, select, marquee, move, resize.
type Drag = { kind: 'pan' | 'marquee' | 'move' | 'size' | 'turn'; x: number; y: number; from: Map<string, Box>; frame?: Box; handle?: Handle; view: { x: number; y: number }; started: boolean }
let drag: Drag | undefined

function down(e: PointerEvent, handle?: Handle | 'turn') {
  menu.value = undefined
  if (e.button > 1) return
  frame.value!.focus()
  const p = toScreen(e)
  const base = { x: p.x, y: p.y, from: new Map<string, Box>(), view: { x: view.value.x, y: view.value.y }, started: false }
  ;(e.currentTarget as globalThis.Element).setPointerCapture?.(e.pointerId)
  if (e.button === 1 || space.value) {
    drag = { ...base, kind: 'pan', x: e.clientX, y: e.clientY }
    return
  }
  if (handle === 'turn') {
    drag = { ...base, kind: 'turn', frame: frameBox.value, from: new Map() }
    return
  }
  if (handle) {
    drag = { ...base, kind: 'size', handle, frame: frameBox.value, from: boxes() }
    return
  }
  const under = hit(e, p)
  const id = under && props.editor.unit(under)
  if (!id) {
    if (!e.shiftKey) {
      selection.value = new Set()
      props.editor.inside.value = ''
    }
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
const boxes = () =>
  new Map(
    props.editor.whole([...selection.value].filter((id) => doc.value.elements[id] && !doc.value.elements[id]!.locked)).filter((id) => !doc.value.elements[id]!.locked).map((id) => {
      const { x, y, w, h } = doc.value.elements[id]!
      return [id, { x, y, w, h }]
    }),
  )

/** The element under the pointer; one that covers others gives way on Alt. */
function hit(e: PointerEvent, p: { x: number; y: number }): string | undefined {
  const under = [...props.editor.order.value].reverse().filter((id) => {
    const b = doc.value.elements[id]!
    if (b.kind === 'group' || b.hidden || (b.locked && !e.altKey)) return false
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
  if (drag.kind === 'turn' && drag.frame) {
    const [cx, cy] = [drag.frame.x + drag.frame.w / 2, drag.frame.y + drag.frame.h / 2]
    const a = (Math.atan2(p.x - cx, cy - p.y) * 180) / Math.PI
    turning.value = (Math.round(a / (e.altKey ? 1 : 15)) * (e.altKey ? 1 : 15) + 360) % 360
    const [id] = selection.value
    draw(id!, { ...doc.value.elements[id!]!, angle: turning.value })
    return
  }
  if (drag.kind === 'marquee') {
    marquee.value = { x: Math.min(drag.x, p.x), y: Math.min(drag.y, p.y), w: Math.abs(dx), h: Math.abs(dy) }
    return
  }
  const others = Object.entries(doc.value.elements).filter(([id, b]) => !drag!.from.has(id) && b.kind !== 'group' && !b.hidden).map(([, b]) => b).slice(0, 400)
  if (drag.kind === 'move' && drag.frame) {
    const s = e.altKey ? { dx: 0, dy: 0, guides: [] } : snap({ ...drag.frame, x: drag.frame.x + dx, y: drag.frame.y + dy }, others, GRID, 5 / view.value.scale)
    guides.value = s.guides
    dx += s.dx
    dy += s.dy
    const next = new Map<string, Box>()
    for (const [id, b] of drag.from) {
      const q = { ...b, x: b.x + dx, y: b.y + dy }
      next.set(id, q)
      const { angle, kind } = doc.value.elements[id]!
      if (kind !== 'group') nodeOf(id)?.setAttribute('transform', `translate(${q.x} ${q.y})${angle ? ` rotate(${angle} ${q.w / 2} ${q.h / 2})` : ''}`)
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
    selection.value = new Set([...selection.value, ...Object.entries(doc.value.elements).filter(([, b]) => b.kind !== 'group' && !b.locked && !b.hidden && touches(m, b)).map(([id]) => props.editor.unit(id))])
    return
  }
  if (d?.kind === 'turn') {
    const angle = turning.value
    turning.value = undefined
    if (angle !== undefined) void props.editor.set(t('editor.turned'), [...selection.value].map((id) => [id, 'angle', angle || undefined]))
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
  else if (key === 'escape') {
    if (menu.value || offer.value) menu.value = offer.value = undefined
    else if (props.editor.inside.value && !selection.value.size) props.editor.inside.value = ''
    else selection.value = new Set()
  } else if (ctrl && key === 'g') void (e.shiftKey ? props.editor.ungroup() : props.editor.group())
  else if (ctrl && key === 'l') void props.editor.flag('locked', !props.editor.selected.value.every(([, x]) => x.locked))
  else if (ctrl && key === 'h') void props.editor.flag('hidden', !props.editor.selected.value.every(([, x]) => x.hidden))
  else if (key === 'enter' && selection.value.size === 1 && target === frame.value) enter([...selection.value][0]!)
  else if (ctrl && key === ']') void props.editor.raise(true, !e.shiftKey)
  else if (ctrl && key === '[') void props.editor.raise(false, !e.shiftKey)
  else if (key === 'contextmenu' || (e.shiftKey && key === 'f10')) openMenu()
  else if (ctrl && key === 'a') selection.value = new Set(Object.keys(doc.value.elements).filter((id) => !doc.value.elements[id]!.locked).map((id) => props.editor.unit(id)))
  else if (ctrl && key === 'c') void props.editor.copy()
  else if (ctrl && key === 'x') void props.editor.copy().then(() => props.editor.remove())
  else if (ctrl && key === 'v') void props.editor.paste()
  else if (ctrl && key === 'd') void props.editor.duplicate()
  else if (ctrl && (key === '+' || key === '=')) zoomBy(1.25)
  else if (ctrl && key === '-') zoomBy(0.8)
  else if (ctrl && key === '0') fit()
  else if (key === 'tab' && props.editor.order.value.length) {
    const all = [...new Set(props.editor.order.value.filter((id) => !doc.value.elements[id]!.hidden).map((id) => props.editor.unit(id)))]
    const at = all.findIndex((id) => selection.value.has(id))
    selection.value = new Set([all[(at + (e.shiftKey ? -1 : 1) + all.length) % all.length]!])
  } else return
  e.preventDefault()
}
useEventListener('keydown', keys)
useEventListener('keyup', (e: KeyboardEvent) => e.key === ' ' && (space.value = false))

/** Goes into a group to edit what lies in it. */
function enter(id: string) {
  if (doc.value.elements[id]?.kind !== 'group') return
  props.editor.inside.value = id
  selection.value = new Set([props.editor.members.value.get(id)?.[0] ?? id])
}
function open(e: MouseEvent) {
  const under = hit(e as PointerEvent, toScreen(e))
  const id = under && props.editor.unit(under)
  if (!id) return
  if (doc.value.elements[id]?.kind === 'group') {
    props.editor.inside.value = id
    selection.value = new Set([props.editor.unit(under)])
  } else if (doc.value.elements[id]?.kind === 'symbol') {
    const symbol = doc.value.elements[id]!.props?.symbol as string
    if (symbol) void router.push({ name: 'screens', params: { project: project.id, id: symbol } })
  }
}
function openMenu(e?: MouseEvent) {
  const r = frame.value!.getBoundingClientRect()
  if (e) {
    const under = hit(e as PointerEvent, toScreen(e))
    const id = under && props.editor.unit(under)
    if (id && !selection.value.has(id)) selection.value = new Set([id])
  }
  menu.value = { left: Math.min(e ? e.clientX - r.left : 200, width.value - 240), top: Math.min(e ? e.clientY - r.top : 120, height.value - 380) }
}
/** What the menu does to the selection. */
const commands = computed(() => {
  const chosen = props.editor.selected.value
  const one = chosen.length === 1 ? chosen[0]![1] : undefined
  const tag = one?.props?.tag as string | undefined
  const list: [string, string, () => unknown, boolean?][] = [
    ['copy', 'Ctrl C', () => props.editor.copy()], ['paste', 'Ctrl V', () => props.editor.paste()], ['duplicate', 'Ctrl D', () => props.editor.duplicate()],
    ['group', 'Ctrl G', () => props.editor.group(), chosen.length > 1], ['ungroup', 'Ctrl Shift G', () => props.editor.ungroup(), chosen.some(([, e]) => e.kind === 'group')],
    ['into', 'Enter', () => enter(chosen[0]![0]), one?.kind === 'group'],
    ['forward', 'Ctrl ]', () => props.editor.raise(true, true)], ['backward', 'Ctrl [', () => props.editor.raise(false, true)], ['front', 'Ctrl Shift ]', () => props.editor.raise(true)], ['back', 'Ctrl Shift [', () => props.editor.raise(false)],
    [one?.locked ? 'unlock' : 'lock', 'Ctrl L', () => props.editor.flag('locked', !chosen.every(([, e]) => e.locked))], [one?.hidden ? 'unhide' : 'hide', 'Ctrl H', () => props.editor.flag('hidden', !chosen.every(([, e]) => e.hidden))],
    ['substitute', '', () => emit('substitute')], ['point', '', () => emit('point', tag!), !!tag && !tag.startsWith('$')],
    ['delete', 'Del', () => props.editor.remove()],
  ]
  return list.filter(([, , , when]) => when !== false)
})
function command(run: () => unknown) {
  menu.value = undefined
  frame.value!.focus()
  void run()
}

// Dropping tags, equipment and kinds.
async function drop(e: DragEvent) {
  const p = toScreen(e)
  const kind = e.dataTransfer?.getData('application/x-rr-kind')
  const tags = JSON.parse(e.dataTransfer?.getData('application/x-rr-tags') || '[]') as string[]
  frame.value!.focus()
  if (kind) {
    const k = project.kind(kind)!
    return void props.editor.add(t('editor.placed'), [props.editor.make(kind, p.x - k.w / 2, p.y - k.h / 2)])
  }
  const pieces = JSON.parse(e.dataTransfer?.getData('application/x-rr-gear') || '[]') as { id: string; symbol?: string }[]
  if (pieces.length) {
    const made = pieces.flatMap((piece, i) => props.editor.equip(p.x, p.y + i * 24, piece) ?? [])
    if (made.length) await props.editor.add(t('editor.placed'), made)
    return
  }
  const points = JSON.parse(e.dataTransfer?.getData('application/x-rr-points') || '[]') as ScreenPoint[]
  const r = frame.value!.getBoundingClientRect()
  if (tags.length || points.length) offer.value = { tags, points, x: p.x, y: p.y, left: Math.min(e.clientX - r.left, width.value - 330), top: Math.min(e.clientY - r.top, height.value - 110) }
}
async function place(kind: string) {
  const o = offer.value!
  offer.value = undefined
  if (o.points.length) {
    const step = (project.kind(kind)?.h ?? 40) + 24
    return void props.editor.add(t('editor.placed'), o.points.map((pt, i) => props.editor.makePoint(kind, o.x, o.y + i * step, pt)))
  }
  if (kind === 'tagtable') return void props.editor.add(t('editor.placed'), [{ ...props.editor.make('table', o.x, o.y), h: Math.max(64, o.tags.length * 32), tags: o.tags }])
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
    @pointerdown="down($event)" @pointermove="move" @pointerup="up" @wheel.prevent="wheel" @dragover.prevent @drop.prevent="drop" @dblclick="open" @contextmenu.prevent="openMenu"
  >
    <svg :width="width" :height="height" :viewBox="`${view.x} ${view.y} ${width / view.scale} ${height / view.scale}`" class="screen-svg">
      <ScreenDefs />
      <defs><pattern id="dots" :width="GRID" :height="GRID" patternUnits="userSpaceOnUse"><circle cx="0" cy="0" r=".7" fill="var(--c-quiet)" opacity=".5" /></pattern></defs>
      <g v-if="!doc.role" class="ghost"><rect :width="doc.width" :height="BANNER" :y="-BANNER" /><text :x="16" :y="-BANNER / 2">{{ $t('editor.banner') }}</text><rect :width="doc.width" :height="NAVIGATION" :y="doc.height" /><text :x="16" :y="doc.height + NAVIGATION / 2">{{ $t('editor.navigation') }}</text></g>
      <rect :width="doc.width" :height="doc.height" :fill="colour(doc.background || (doc.role === 'symbol' ? 'sheet' : 'field'))" /><rect v-if="view.scale > 0.75" :width="doc.width" :height="doc.height" fill="url(#dots)" />
      <g ref="root" data-root />
      <g v-if="!marquee" class="over">
        <rect v-for="id in [...selection].filter((x) => doc.elements[x])" :key="id" class="outline" :class="{ locked: doc.elements[id]!.locked, group: doc.elements[id]!.kind === 'group' }" :transform="angleOf(id) ? `rotate(${angleOf(id)} ${boxOf(id).x + boxOf(id).w / 2} ${boxOf(id).y + boxOf(id).h / 2})` : undefined" v-bind="{ x: boxOf(id).x, y: boxOf(id).y, width: boxOf(id).w, height: boxOf(id).h }" />
        <rect v-if="editor.inside.value && doc.elements[editor.inside.value]" class="inside" v-bind="{ x: boxOf(editor.inside.value).x - 4, y: boxOf(editor.inside.value).y - 4, width: boxOf(editor.inside.value).w + 8, height: boxOf(editor.inside.value).h + 8 }" />
        <template v-if="frameBox">
          <rect
            v-for="h in handles" :key="`${h.sx}${h.sy}`" class="handle" :class="`h${h.sx}${h.sy}`" :width="9 / view.scale" :height="9 / view.scale" :x="frameBox.x + (frameBox.w * (h.sx + 1)) / 2 - 4.5 / view.scale" :y="frameBox.y + (frameBox.h * (h.sy + 1)) / 2 - 4.5 / view.scale"
            :style="{ cursor: h.sx * h.sy === 0 ? (h.sx ? 'ew-resize' : 'ns-resize') : h.sx * h.sy > 0 ? 'nwse-resize' : 'nesw-resize' }" @pointerdown.stop="down($event, h)" @pointermove.stop="move" @pointerup.stop="up"
          />
          <circle v-if="selection.size === 1 && doc.elements[[...selection][0]!]?.kind !== 'group'" class="handle turn" :cx="frameBox.x + frameBox.w / 2" :cy="frameBox.y - 22 / view.scale" :r="5 / view.scale" style="cursor: grab" @pointerdown.stop="down($event, 'turn')" @pointermove.stop="move" @pointerup.stop="up" />
        </template>
        <line v-for="(g, i) in guides" :key="i" class="guide" :x1="g.vertical ? g.at : g.from - 12" :x2="g.vertical ? g.at : g.to + 12" :y1="g.vertical ? g.from - 12 : g.at" :y2="g.vertical ? g.to + 12 : g.at" />
      </g>
      <rect v-if="marquee" class="marquee" :x="marquee.x" :y="marquee.y" :width="marquee.w" :height="marquee.h" />
      <g class="ruler" :transform="`translate(0 ${view.y})`"><line v-for="x in ticks(doc.width)" :key="x" :x1="x" :x2="x" y1="0" :y2="(x % 200 ? 5 : 10) / view.scale" /></g>
      <g class="ruler" :transform="`translate(${view.x} 0)`"><line v-for="y in ticks(doc.height)" :key="y" :y1="y" :y2="y" x1="0" :x2="(y % 200 ? 5 : 10) / view.scale" /></g>
    </svg>
    <DropOffer v-if="offer" :tags="offer.tags" :points="offer.points" :style="{ left: offer.left + 'px', top: offer.top + 'px' }" @choose="place" @cancel="offer = undefined" />
    <div v-if="menu" class="menu" role="menu" :style="{ left: menu.left + 'px', top: menu.top + 'px' }" @pointerdown.stop>
      <button v-for="[name, key, run] in commands" :key="name" role="menuitem" @click="command(run)"><span>{{ $t('menu.' + name) }}</span><span class="quiet mono">{{ key }}</span></button>
    </div>
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
.outline.locked { stroke: var(--c-quiet); stroke-dasharray: 3 3; }
.outline.group { stroke-dasharray: 6 3; }
.inside { fill: none; stroke: var(--c-spruce); stroke-dasharray: 2 4; vector-effect: non-scaling-stroke; }
.menu { position: absolute; background: var(--c-sheet); border: 1px solid var(--c-line); border-radius: 6px; box-shadow: 0 8px 28px #0003; padding: 4px; z-index: 6; width: 230px; }
.menu button { display: flex; justify-content: space-between; width: 100%; border: 0; background: none; padding: 5px 10px; cursor: pointer; border-radius: 4px; text-align: left; color: var(--c-ink); }
.menu button:hover, .menu button:focus-visible { background: var(--c-tint); }
.menu .mono { font-size: 12px; }
.handle { fill: var(--c-sheet); stroke: var(--c-spruce); stroke-width: 1.5; vector-effect: non-scaling-stroke; pointer-events: all; }
.guide { stroke: var(--c-high); stroke-width: 1; stroke-dasharray: 4 3; vector-effect: non-scaling-stroke; }
.marquee { fill: color-mix(in srgb, var(--c-spruce) 12%, transparent); stroke: var(--c-spruce); stroke-width: 1; vector-effect: non-scaling-stroke; }
.ruler { stroke: var(--c-quiet); stroke-width: 1; }
.ruler line { vector-effect: non-scaling-stroke; }
.foot { position: absolute; left: 12px; bottom: 10px; display: flex; gap: 8px; pointer-events: none; }
</style>
