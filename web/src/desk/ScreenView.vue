<script setup lang="ts">
import { computed, onUnmounted, ref, toRef, watch } from 'vue'
import { presses, str, type Hand, type How, type Item } from '../canvas/element'
import ScreenDefs from '../canvas/ScreenDefs.vue'
import type { AlarmMark } from '../canvas/flag'
import { pageMounts } from '../canvas/mounts'
import { acts, kindOf } from '../canvas/registry'
import type { By } from '../live/hand'
import type { Opens } from '../live/live'
import { colour } from '../theme'
import { useScene, type Shown } from './useScene'

/** What a person did to an element. */
export interface Act {
  item: Item
  how: How | 'hold'
  value?: string
  /** What holds a button. */
  by?: By
}

// One screen, drawn and answering to pointer and keyboard. What is to be done
// about an act is the Desk's affair.
const props = defineProps<{
  program: Shown
  project: string
  language: string
  opens: Opens
  scale?: number
  lost: boolean
  alarms?: Map<string, AlarmMark>
  ringed?: string
}>()
const emit = defineEmits<{ act: [act: Act]; point: [item: Item]; drawn: [] }>()
const root = ref<SVGGElement>()
const mounts = pageMounts(() => ({
  project: props.project,
  program: props.program,
  language: props.language,
}))
onUnmounted(mounts.end)
const { scene, problem, stage } = useScene(
  () => props.program,
  () => props.project,
  () => props.language,
  toRef(props, 'opens'),
  root,
  wire,
)
// Tags may tell what is open of books of recipes here: the page tells the server that.
watch(
  [() => scene.value?.books?.join(' ') ?? '', () => props.project, () => props.program],
  async ([books], _, ended) => {
    if (!books) return
    let end: (() => void) | undefined
    let over = false
    ended(() => ((over = true), end?.()))
    const { tellOpen } = await import('../recipes/tellOpen')
    if (!over) end = tellOpen(props.project, props.program, books.split(' '), props.language)
  },
)
watch([() => props.alarms, scene], () => props.alarms && stage()?.alarms(props.alarms), { flush: 'post' })
watch([() => props.ringed, scene], () => stage()?.ring(props.ringed ?? ''), { flush: 'post' })
watch(scene, () => emit('drawn'), { flush: 'sync' })
const k = computed(() => props.scale ?? 1)
defineExpose({ scene, problem, stage, functionKey })

const hand: Hand = {
  say: (item, how, value) => emit('act', { item, how, value }),
  hold: (item, by) => emit('act', { item, how: 'hold', by }),
  pose: (id, prop, v) => stage()?.pose(id, prop, v),
  turn: (id, tab) => stage()?.turn(id, tab),
}

/** Makes an element answer to pointer and keyboard. */
function wire(item: Item) {
  const { element: e, node } = item
  const kind = kindOf(e.kind)
  if (kind.page) return mounts.mount(e, node)
  if (e.tag) {
    node.addEventListener('contextmenu', (ev) => {
      ev.preventDefault()
      ev.stopPropagation()
      emit('point', item)
    })
    if (!kind.stays?.(e)) longPress(item)
  }
  if (!acts(kind) && !e.opens) return
  node.setAttribute('tabindex', '0')
  node.style.cursor = 'pointer'
  if (kind.stays?.(e)) return kind.wire?.(item, hand)
  node.addEventListener('click', (ev) => {
    ev.stopPropagation()
    act(item, ev.target as Element)
  })
  node.addEventListener('keydown', (ev) => {
    if (ev.target !== node || !presses(ev)) return
    ev.preventDefault()
    ev.stopPropagation()
    act(item)
  })
}

/** Presses the button of a function key; tells whether there is one. */
function functionKey(key: string): boolean {
  const found = scene.value?.elements.find((e) => e.props.key === key)
  const item = found && stage()?.get(found.id)
  if (!item) return false
  if (kindOf(found.kind).stays?.(found)) hand.hold(item, { key, focus: false })
  else act(item)
  return true
}

/** What a finger needs, in pixels of the window. */
const FINGER = 44
/**
 * On a screen that is drawn small for its panel, what is drawn smaller than a
 * finger answers to one beside it too: the nearest of what can be acted on.
 */
function reach(ev: PointerEvent | MouseEvent) {
  if (k.value >= 1 || (ev.target as Element).closest('[tabindex="0"]')) return
  let best: { node: SVGGElement; far: number } | undefined
  for (const node of root.value?.querySelectorAll<SVGGElement>('[data-element][tabindex="0"]') ?? []) {
    const r = node.getBoundingClientRect()
    if (!r.width) continue
    const [dx, dy] = [
      Math.max(r.left - ev.clientX, ev.clientX - r.right, 0),
      Math.max(r.top - ev.clientY, ev.clientY - r.bottom, 0),
    ]
    const near = dx <= Math.max(0, FINGER - r.width) / 2 && dy <= Math.max(0, FINGER - r.height) / 2
    if (near && (!best || dx + dy < best.far)) best = { node, far: dx + dy }
  }
  if (!best) return
  ev.stopPropagation()
  best.node.dispatchEvent(
    ev instanceof PointerEvent ? new PointerEvent(ev.type, ev) : new MouseEvent(ev.type, ev),
  )
}

function act(item: Item, at?: Element) {
  const inside = (name: string) => at?.closest(`[data-${name}]`)?.getAttribute(`data-${name}`) ?? undefined
  const { press } = kindOf(item.element.kind)
  if (press) press(item, hand, inside)
  else if (item.element.opens) hand.say(item, 'open')
}

function longPress(item: Item) {
  let timer = 0
  const stop = () => clearTimeout(timer)
  item.node.addEventListener('pointerdown', (ev) => {
    if (ev.pointerType === 'mouse') return
    timer = window.setTimeout(() => emit('point', item), 700)
  })
  for (const end of ['pointerup', 'pointercancel', 'pointerleave']) item.node.addEventListener(end, stop)
}

/** The menu key opens the card of what has the focus. */
function menuKey(ev: KeyboardEvent) {
  if (ev.key !== 'ContextMenu' && !(ev.shiftKey && ev.key === 'F10')) return
  const id = (ev.target as Element).closest<SVGGElement>('[data-element]')?.dataset.element
  const item = id ? stage()?.get(id) : undefined
  if (item?.element.tag) {
    ev.preventDefault()
    emit('point', item)
  }
}
const label = computed(() => str(scene.value?.title) || scene.value?.name || '')
</script>

<template>
  <svg
    :width="(scene?.width ?? 0) * k"
    :height="(scene?.height ?? 0) * k"
    :viewBox="`0 0 ${scene?.width ?? 1} ${scene?.height ?? 1}`"
    class="screen-svg"
    :class="{ lost }"
    :style="{ background: colour(scene?.background ?? 'none'), '--page-zoom': 1 / Math.min(1, k) }"
    :aria-label="label"
    @keydown="menuKey"
    @pointerdown.capture="reach"
    @click.capture="reach">
    <ScreenDefs />
    <g ref="root" />
  </svg>
</template>

<style scoped>
svg {
  display: block;
}
.lost {
  opacity: 0.35;
  filter: grayscale(1);
}
svg :deep([tabindex='0']:focus-visible) {
  outline: 3px solid var(--c-spruce);
  outline-offset: 2px;
}
</style>
