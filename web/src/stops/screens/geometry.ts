import type { Element } from '../../api/client'

/** The distance between the places that things snap to, in pixels. */
export const GRID = 8

export interface Box {
  x: number
  y: number
  w: number
  h: number
}

/** The smallest box around some boxes. */
export function around(boxes: Box[]): Box | undefined {
  if (!boxes.length) return undefined
  const x = Math.min(...boxes.map((b) => b.x))
  const y = Math.min(...boxes.map((b) => b.y))
  return {
    x,
    y,
    w: Math.max(...boxes.map((b) => b.x + b.w)) - x,
    h: Math.max(...boxes.map((b) => b.y + b.h)) - y,
  }
}

export const touches = (a: Box, b: Box): boolean =>
  a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h

/** The part of a drag that a handle takes: -1 for the low edge, 1 for the high one. */
export type Handle = { sx: -1 | 0 | 1; sy: -1 | 0 | 1 }

export const handles: Handle[] = [
  { sx: -1, sy: -1 },
  { sx: 0, sy: -1 },
  { sx: 1, sy: -1 },
  { sx: -1, sy: 0 },
  { sx: 1, sy: 0 },
  { sx: -1, sy: 1 },
  { sx: 0, sy: 1 },
  { sx: 1, sy: 1 },
]

const MIN = 4

/** The box after a handle was dragged. */
export function resized(b: Box, h: Handle, dx: number, dy: number): Box {
  let { x, y, w, h: height } = b
  if (h.sx < 0) [x, w] = [Math.min(x + dx, x + w - MIN), Math.max(MIN, w - dx)]
  if (h.sx > 0) w = Math.max(MIN, w + dx)
  if (h.sy < 0) [y, height] = [Math.min(y + dy, y + height - MIN), Math.max(MIN, height - dy)]
  if (h.sy > 0) height = Math.max(MIN, height + dy)
  return { x, y, w, h: height }
}

/** Where a box of a selection lies after the selection's frame changed. */
export function within(from: Box, to: Box, b: Box): Box {
  const fx = from.w ? to.w / from.w : 1
  const fy = from.h ? to.h / from.h : 1
  return { x: to.x + (b.x - from.x) * fx, y: to.y + (b.y - from.y) * fy, w: b.w * fx, h: b.h * fy }
}

export interface Guide {
  vertical: boolean
  at: number
  from: number
  to: number
}

/**
 * Snaps a moving box to edges and centres of others, or else to the grid.
 * Returns the correction and the guides to show.
 */
export function snap(
  box: Box,
  others: Box[],
  grid: number,
  reach: number,
): { dx: number; dy: number; guides: Guide[] } {
  const guides: Guide[] = []
  const axis = (vertical: boolean): number => {
    const lo = vertical ? box.x : box.y
    const size = vertical ? box.w : box.h
    const own = [lo, lo + size / 2, lo + size]
    let best: { d: number; at: number; other: Box } | undefined
    for (const o of others) {
      const olo = vertical ? o.x : o.y
      const osize = vertical ? o.w : o.h
      for (const p of [olo, olo + osize / 2, olo + osize])
        for (const m of own)
          if (Math.abs(p - m) <= reach && (!best || Math.abs(p - m) < Math.abs(best.d)))
            best = { d: p - m, at: p, other: o }
    }
    // Equal gaps: as far from the nearest neighbour as that is from its own.
    const gap = best ? undefined : equalGap(vertical, box, others, reach)
    if (gap) {
      guides.push(...gap.guides)
      return gap.d
    }
    if (best) {
      const o = best.other
      guides.push(
        vertical
          ? { vertical, at: best.at, from: Math.min(o.y, box.y), to: Math.max(o.y + o.h, box.y + box.h) }
          : { vertical, at: best.at, from: Math.min(o.x, box.x), to: Math.max(o.x + o.w, box.x + box.w) },
      )
      return best.d
    }
    return Math.round(lo / grid) * grid - lo
  }
  return { dx: axis(true), dy: axis(false), guides }
}

export type Alignment =
  'left' | 'centre' | 'right' | 'top' | 'middle' | 'bottom' | 'across' | 'down' | 'sameWidth' | 'sameHeight'

/** New places and sizes for an alignment of elements by id; the first is the measure of sizes. */
export function aligned(how: Alignment, items: [string, Element][]): Map<string, Partial<Box>> {
  const out = new Map<string, Partial<Box>>()
  const f = around(items.map(([, e]) => e))
  if (!f) return out
  for (const [id, e] of items) {
    if (how === 'left') out.set(id, { x: f.x })
    if (how === 'centre') out.set(id, { x: Math.round(f.x + (f.w - e.w) / 2) })
    if (how === 'right') out.set(id, { x: f.x + f.w - e.w })
    if (how === 'top') out.set(id, { y: f.y })
    if (how === 'middle') out.set(id, { y: Math.round(f.y + (f.h - e.h) / 2) })
    if (how === 'bottom') out.set(id, { y: f.y + f.h - e.h })
    if (how === 'sameWidth') out.set(id, { w: items[0]![1].w })
    if (how === 'sameHeight') out.set(id, { h: items[0]![1].h })
  }
  if (how === 'across' || how === 'down') {
    const horizontal = how === 'across'
    const sorted = [...items].sort((a, b) => (horizontal ? a[1].x - b[1].x : a[1].y - b[1].y))
    const total = sorted.reduce((s, [, e]) => s + (horizontal ? e.w : e.h), 0)
    const gap = ((horizontal ? f.w : f.h) - total) / Math.max(1, sorted.length - 1)
    let at = horizontal ? f.x : f.y
    for (const [id, e] of sorted) {
      out.set(id, horizontal ? { x: Math.round(at) } : { y: Math.round(at) })
      at += (horizontal ? e.w : e.h) + gap
    }
  }
  return out
}

/** Where a box has the same gap to its neighbour as that has to the next one. */
function equalGap(
  vertical: boolean,
  box: Box,
  others: Box[],
  reach: number,
): { d: number; guides: Guide[] } | undefined {
  const lo = (b: Box) => (vertical ? b.x : b.y)
  const hi = (b: Box) => (vertical ? b.x + b.w : b.y + b.h)
  const across = (b: Box) =>
    vertical ? b.y < box.y + box.h && box.y < b.y + b.h : b.x < box.x + box.w && box.x < b.x + b.w
  const row = others.filter(across).sort((a, b) => lo(a) - lo(b))
  const middle = vertical ? box.y + box.h / 2 : box.x + box.w / 2
  const line = (from: number, to: number): Guide => ({ vertical: !vertical, at: middle, from, to })
  for (let i = 0; i + 1 < row.length; i++) {
    const [a, b] = [row[i]!, row[i + 1]!]
    const gap = lo(b) - hi(a)
    if (gap <= 0) continue
    const behind = hi(b) + gap
    if (Math.abs(behind - lo(box)) <= reach)
      return { d: behind - lo(box), guides: [line(hi(a), lo(b)), line(hi(b), behind)] }
    const before = lo(a) - gap - (hi(box) - lo(box))
    if (Math.abs(before - lo(box)) <= reach)
      return { d: before - lo(box), guides: [line(hi(a), lo(b)), line(before + hi(box) - lo(box), lo(a))] }
    // In the middle between two.
    const between = (hi(a) + lo(b)) / 2 - (hi(box) - lo(box)) / 2
    if (lo(b) - hi(a) > hi(box) - lo(box) && Math.abs(between - lo(box)) <= reach)
      return {
        d: between - lo(box),
        guides: [line(hi(a), between), line(between + hi(box) - lo(box), lo(b))],
      }
  }
  return undefined
}
