import { isGroup } from '../../canvas/registry'
import { computed, ref, shallowRef, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Element } from '../../api/client'
import { around, type Box, GRID, type Guide, type Handle, resized, snap, touches, within } from './geometry'
import type { Editor } from './useEditor'
import type { View } from './useView'

/** What a pointer drags. */
interface Drag {
  kind: 'pan' | 'marquee' | 'move' | 'size' | 'turn'
  x: number // where it began, on the screen that is drawn; for pan in the window
  y: number
  from: Map<string, Box> // the places of what is dragged
  frame?: Box // around them
  handle?: Handle
  view: { x: number; y: number }
  started: boolean
  others: Box[] // to snap to
  carried?: { shift: (dx: number, dy: number) => void; drop: () => void }
}

interface Drawing {
  draw: (id: string, e: Element) => void
  carry: (ids: string[]) => NonNullable<Drag['carried']>
}

/** Elements beyond so many are not snapped to. */
const SNAPPED = 400

/** The pointer in the editor: pan, select, marquee, move, resize, turn. */
export function usePointer(
  editor: Editor,
  frame: Ref<HTMLElement | undefined>,
  { view, update, toScreen }: View,
  drawing: Drawing,
  space: Ref<boolean>,
) {
  const { t } = useI18n()
  const selection = editor.selection
  const doc = computed(() => editor.doc.value!)
  const guides = shallowRef<Guide[]>([])
  const marquee = shallowRef<Box>()
  /** How far the selection was moved so far. */
  const shift = shallowRef<{ dx: number; dy: number }>()
  /** The places of what is being resized. */
  const sizes = shallowRef<Map<string, Box>>()
  const turning = ref<number>()
  let drag: Drag | undefined

  /** The places of what is selected and can be moved, with what lies in it. */
  const boxes = () =>
    new Map(
      editor
        .whole([...selection.value].filter((id) => doc.value.elements[id] && !doc.value.elements[id]!.locked))
        .filter((id) => !doc.value.elements[id]!.locked)
        .map((id) => {
          const { x, y, w, h } = doc.value.elements[id]!
          return [id, { x, y, w, h }]
        }),
    )
  /** Where an element is now, while it is dragged too. */
  const boxOf = (id: string): Box => {
    const at = sizes.value
    if (!at) return editor.boxOf(id)
    return (
      at.get(id) ??
      around(
        editor
          .whole([id])
          .flatMap((m) => (at.has(m) && !isGroup(doc.value.elements[m]!) ? [at.get(m)!] : [])),
      ) ??
      editor.boxOf(id)
    )
  }
  const angleOf = (id: string) =>
    selection.value.size === 1 && turning.value !== undefined
      ? turning.value
      : (doc.value.elements[id]?.angle ?? 0)
  const frameBox = computed(() =>
    around([...selection.value].filter((id) => doc.value.elements[id]).map(boxOf)),
  )

  /** The element under the pointer; one that covers others gives way on Alt. */
  function hit(e: MouseEvent): string | undefined {
    const p = toScreen(e)
    const under = [...editor.order.value].reverse().filter((id) => {
      const b = doc.value.elements[id]!
      if (isGroup(b) || b.hidden || (b.locked && !e.altKey)) return false
      return p.x >= b.x - 3 && p.x <= b.x + b.w + 3 && p.y >= b.y - 3 && p.y <= b.y + Math.max(b.h, 6) + 3
    })
    if (e.altKey && under.length > 1) {
      const at = under.findIndex((id) => selection.value.has(id))
      return under[(at + 1) % under.length]
    }
    return under[0]
  }

  function down(e: PointerEvent, handle?: Handle | 'turn') {
    if (e.button > 1) return
    frame.value!.focus()
    update()
    const p = toScreen(e)
    const base = {
      x: p.x,
      y: p.y,
      from: new Map<string, Box>(),
      view: { x: view.value.x, y: view.value.y },
      started: false,
      others: [],
    }
    ;(e.currentTarget as globalThis.Element).setPointerCapture?.(e.pointerId)
    if (e.button === 1 || space.value) {
      drag = { ...base, kind: 'pan', x: e.clientX, y: e.clientY }
      return
    }
    if (handle) {
      drag =
        handle === 'turn'
          ? { ...base, kind: 'turn', frame: frameBox.value }
          : { ...base, kind: 'size', handle, frame: frameBox.value, from: boxes() }
      return
    }
    const under = hit(e)
    const id = under && editor.unit(under)
    if (!id) {
      if (!e.shiftKey) {
        selection.value = new Set()
        editor.inside.value = ''
      }
      drag = { ...base, kind: 'marquee' }
      return
    }
    if (e.shiftKey || e.ctrlKey) {
      const next = new Set(selection.value)
      if (!next.delete(id)) next.add(id)
      selection.value = next
    } else if (!selection.value.has(id)) selection.value = new Set([id])
    const from = boxes()
    const others = Object.entries(doc.value.elements)
      .filter(([o, b]) => !from.has(o) && !isGroup(b) && !b.hidden)
      .map(([, b]) => b)
    drag = { ...base, kind: 'move', from, frame: frameBox.value, others: others.slice(0, SNAPPED) }
  }

  function move(e: PointerEvent) {
    if (!drag) return
    if (drag.kind === 'pan') {
      view.value = {
        ...view.value,
        x: drag.view.x - (e.clientX - drag.x) / view.value.scale,
        y: drag.view.y - (e.clientY - drag.y) / view.value.scale,
      }
      return
    }
    const p = toScreen(e)
    const dx = p.x - drag.x
    const dy = p.y - drag.y
    if (!drag.started && Math.hypot(dx, dy) * view.value.scale < 3) return
    const first = !drag.started
    drag.started = true
    if (drag.kind === 'marquee')
      marquee.value = { x: Math.min(drag.x, p.x), y: Math.min(drag.y, p.y), w: Math.abs(dx), h: Math.abs(dy) }
    else if (!drag.frame) return
    else if (drag.kind === 'turn') turn(drag.frame, p, e.altKey)
    else if (drag.kind === 'size') size(drag.frame, dx, dy, e.altKey ? 1 : GRID)
    else {
      if (first) drag.carried = drawing.carry([...drag.from.keys()])
      const s = e.altKey
        ? { dx: 0, dy: 0, guides: [] }
        : snap(
            { ...drag.frame, x: drag.frame.x + dx, y: drag.frame.y + dy },
            drag.others,
            GRID,
            5 / view.value.scale,
          )
      guides.value = s.guides
      shift.value = { dx: dx + s.dx, dy: dy + s.dy }
      drag.carried!.shift(shift.value.dx, shift.value.dy)
    }
  }
  function turn(f: Box, p: { x: number; y: number }, fine: boolean) {
    const a = (Math.atan2(p.x - f.x - f.w / 2, f.y + f.h / 2 - p.y) * 180) / Math.PI
    const step = fine ? 1 : 15
    turning.value = (Math.round(a / step) * step + 360) % 360
    const [id] = selection.value
    drawing.draw(id!, { ...doc.value.elements[id!]!, angle: turning.value })
  }
  function size(f: Box, dx: number, dy: number, grid: number) {
    const to = resized(f, drag!.handle!, Math.round(dx / grid) * grid, Math.round(dy / grid) * grid)
    sizes.value = new Map([...drag!.from].map(([id, b]) => [id, within(f, to, b)]))
    for (const [id, q] of sizes.value) drawing.draw(id, { ...doc.value.elements[id]!, ...q })
  }

  function up() {
    const d = drag
    drag = undefined
    guides.value = []
    if (d?.kind === 'marquee' && marquee.value) {
      const m = marquee.value
      marquee.value = undefined
      selection.value = new Set([
        ...selection.value,
        ...Object.entries(doc.value.elements)
          .filter(([, b]) => !isGroup(b) && !b.locked && !b.hidden && touches(m, b))
          .map(([id]) => editor.unit(id)),
      ])
    } else if (d?.kind === 'turn' && turning.value !== undefined) {
      const angle = turning.value || undefined
      turning.value = undefined
      void editor.set(
        t('editor.turned'),
        [...selection.value].map((id) => [id, 'angle', angle]),
      )
    } else if (d?.kind === 'size' && sizes.value) {
      const to = sizes.value
      sizes.value = undefined
      void editor.place(t('editor.resized', { n: to.size }), to)
    } else if (d?.kind === 'move' && shift.value) {
      const { dx, dy } = shift.value
      shift.value = undefined
      d.carried!.drop()
      void editor.place(
        t('editor.moved', { n: d.from.size }),
        new Map([...d.from].map(([id, b]) => [id, { x: b.x + dx, y: b.y + dy }])),
      )
    }
  }
  /** Gives up what is being dragged; tells whether anything was. */
  function cancel(): boolean {
    const d = drag
    drag = undefined
    if (!d?.started) return false
    guides.value = []
    marquee.value = shift.value = sizes.value = turning.value = undefined
    d.carried?.drop()
    if (d.kind === 'size' || d.kind === 'turn')
      for (const id of d.kind === 'turn' ? selection.value : d.from.keys())
        drawing.draw(id, doc.value.elements[id]!)
    return true
  }
  return { guides, marquee, shift, boxes, boxOf, angleOf, frameBox, hit, down, move, up, cancel }
}
