<script setup lang="ts">
import { computed, onUnmounted, ref, toRef, watch } from 'vue'
import { alarmMounts } from '../alarms/mountAlarms'
import { GROOVE, sliderEnds } from '../canvas/controls'
import { num, str } from '../canvas/element'
import ScreenDefs from '../canvas/ScreenDefs.vue'
import type { AlarmMark } from '../canvas/flag'
import { actable, type Item } from '../canvas/stage'
import type { By } from '../live/hand'
import type { Opens } from '../live/live'
import { colour } from '../theme'
import { useScene, type Shown } from './useScene'

/** What a person did to an element. */
export interface Act {
  item: Item
  how: 'press' | 'enter' | 'send' | 'choose' | 'open' | 'go' | 'hold'
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
const mounts = alarmMounts(
  () => props.project,
  () => props.program,
  () => props.language,
)
onUnmounted(mounts.end)
const { scene, problem, stage } = useScene(
  () => props.program,
  () => props.project,
  () => props.language,
  toRef(props, 'opens'),
  root,
  wire,
)
watch([() => props.alarms, scene], () => props.alarms && stage()?.alarms(props.alarms), { flush: 'post' })
watch([() => props.ringed, scene], () => stage()?.ring(props.ringed ?? ''), { flush: 'post' })
watch(scene, () => emit('drawn'), { flush: 'sync' })
const k = computed(() => props.scale ?? 1)
defineExpose({ scene, problem, stage, functionKey })

const say = (item: Item, how: Act['how'], value?: string) => emit('act', { item, how, value })
const active = (e: KeyboardEvent) => e.key === ' ' || e.key === 'Enter'

/** Makes an element answer to pointer and keyboard. */
function wire(item: Item) {
  const { element: e, node } = item
  if (e.kind === 'alarmlist' || e.kind === 'alarmkey') return mounts.mount(e, node)
  if (e.tag) {
    node.addEventListener('contextmenu', (ev) => {
      ev.preventDefault()
      ev.stopPropagation()
      emit('point', item)
    })
    longPress(item)
  }
  if (!actable.has(e.kind) && !e.opens) return
  node.setAttribute('tabindex', '0')
  node.style.cursor = 'pointer'
  if (e.kind === 'button' && e.props.action === 'hold') return wireHold(item)
  if (e.kind === 'slider') return wireSlider(item)
  node.addEventListener('click', (ev) => {
    ev.stopPropagation()
    act(item, ev.target as Element)
  })
  node.addEventListener('keydown', (ev) => {
    if (ev.target !== node || !active(ev)) return
    ev.preventDefault()
    ev.stopPropagation()
    act(item)
  })
}

/** Presses the button of a function key; tells whether there is one. */
function functionKey(key: string): boolean {
  const found = scene.value?.elements.find((e) => e.kind === 'button' && e.props.key === key)
  const item = found && stage()?.get(found.id)
  if (!item) return false
  if (item.element.props.action === 'hold') emit('act', { item, how: 'hold', by: { key, focus: false } })
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
  const e = item.element
  const inside = (name: string) => at?.closest(`[data-${name}]`)?.getAttribute(`data-${name}`) ?? undefined
  switch (e.kind) {
    case 'button':
      return say(item, 'press')
    case 'switch':
      return say(item, 'send', String(item.shown.on !== true))
    case 'entry': {
      const by = inside('step')
      return by ? say(item, 'send', stepped(item, Number(by))) : say(item, 'enter')
    }
    case 'textentry':
      return say(item, 'enter')
    case 'selector':
      return inside('choice') !== undefined ? say(item, 'send', inside('choice')) : say(item, 'choose')
    case 'tabs': {
      const tab = Number(inside('tab') ?? (num(item.shown.tab, 1) % (e.tabs?.length || 1)) + 1)
      return stage()?.turn(e.id, tab)
    }
    case 'nav':
      return inside('screen') ? say(item, 'go', inside('screen')) : undefined
  }
  if (e.opens) say(item, 'open')
}

/** The value one step from the present one, as it is entered. */
function stepped(item: Item, by: number): string {
  const size = item.element.tag?.step || num(item.element.props.step, 1)
  const d = Math.max(item.element.tag?.decimals ?? 0, 0)
  return (num(item.shown.value) + by * size).toFixed(Math.max(d, size % 1 ? 2 : 0))
}

function longPress(item: Item) {
  let timer = 0
  const stop = () => clearTimeout(timer)
  item.node.addEventListener('pointerdown', (ev) => {
    if (ev.pointerType === 'mouse' || item.element.props.action === 'hold' || item.element.kind === 'slider')
      return
    timer = window.setTimeout(() => emit('point', item), 700)
  })
  for (const end of ['pointerup', 'pointercancel', 'pointerleave']) item.node.addEventListener(end, stop)
}

/** A held button tells what presses it; how that ends is noticed at the window. */
function wireHold(item: Item) {
  const node = item.node
  const hold = (by: By) => emit('act', { item, how: 'hold', by })
  node.style.touchAction = 'none'
  node.addEventListener('pointerdown', (ev) => {
    if (ev.button !== 0 || !ev.isPrimary) return
    node.setPointerCapture(ev.pointerId)
    hold({ pointer: ev.pointerId })
  })
  node.addEventListener('keydown', (ev) => {
    if (!active(ev) || ev.repeat) return
    ev.preventDefault()
    hold({ key: ev.key, focus: true })
  })
}

/** A slider shows where it is while it is drawn, and sends when it is let go. */
function wireSlider(item: Item) {
  const { element: e, node } = item
  const [low, high] = sliderEnds(e)
  const step = e.tag?.step || num(e.props.step) || (high - low) / 100
  const decimals = Math.max(e.tag?.decimals ?? (step % 1 ? 1 : 0), 0)
  const snap = (v: number) => Math.max(low, Math.min(high, low + Math.round((v - low) / step) * step))
  let at: number | undefined
  const showAt = (v: number | undefined) => {
    at = v
    stage()?.pose(e.id, 'sliding', v)
    stage()?.pose(e.id, 'slidingText', v === undefined ? undefined : v.toFixed(decimals))
  }
  const follow = (ev: PointerEvent) => {
    const r = node.getBoundingClientRect()
    const x = ((ev.clientX - r.left) / r.width) * e.w
    showAt(snap(low + ((x - GROOVE) / (e.w - 2 * GROOVE)) * (high - low)))
  }
  node.style.touchAction = 'none'
  node.addEventListener('pointerdown', (ev) => {
    if (ev.button !== 0 || item.shown.enabled === false || item.state.level === 'bad') return
    node.setPointerCapture(ev.pointerId)
    follow(ev)
  })
  node.addEventListener(
    'pointermove',
    (ev) => at !== undefined && node.hasPointerCapture(ev.pointerId) && follow(ev),
  )
  const end = (send: boolean) => {
    if (at === undefined) return
    const v = at
    showAt(undefined)
    if (send) say(item, 'send', v.toFixed(decimals))
  }
  node.addEventListener('pointerup', () => end(true))
  node.addEventListener('pointercancel', () => end(false))
  node.addEventListener('keydown', (ev) => {
    const by =
      ev.key === 'ArrowRight' || ev.key === 'ArrowUp'
        ? 1
        : ev.key === 'ArrowLeft' || ev.key === 'ArrowDown'
          ? -1
          : 0
    if (by) {
      ev.preventDefault()
      ev.stopPropagation()
      showAt(snap((at ?? num(item.shown.value)) + by * step))
    } else if (ev.key === 'Enter') end(true)
    else if (ev.key === 'Escape') end(false)
  })
  node.addEventListener('blur', () => end(false))
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
    :style="{ background: colour(scene?.background ?? 'none') }"
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
