import { make } from './svg'

/** What stands of the alarms of a tag. */
export interface AlarmMark {
  priority: 'critical' | 'high' | 'medium' | 'low'
  unseen: boolean
  /** Its condition is gone, and nobody has seen it. */
  returned: boolean
}

const PIPS = { critical: 4, high: 3, medium: 2, low: 1 }
const HEIGHT = 14
const GAP = 3

/** A box: its left, top, right and bottom. */
export type Box = [left: number, top: number, right: number, bottom: number]
const crosses = (a: Box, b: Box) => a[0] < b[2] && b[0] < a[2] && a[1] < b[3] && b[1] < a[3]

/**
 * Where beside an element a flag stands: at its left, else the first place about
 * it where it covers no word and lies within the screen. All in the element's
 * own coordinates, with its left top corner at 0, 0.
 */
export function flagPlace(flag: number, w: number, h: number, words: Box[], within: Box): [number, number] {
  const [left, right, above, below] = [-flag - GAP, w + GAP, -HEIGHT - GAP, h + GAP]
  const places: [number, number][] = [
    [left, 0],
    [left, h - HEIGHT],
    [0, above],
    [w - flag, above],
    [right, 0],
    [right, h - HEIGHT],
    [0, below],
    [w - flag, below],
  ]
  const free = ([x, y]: [number, number]) => {
    const box: Box = [x, y, x + flag, y + HEIGHT]
    return (
      x >= within[0] &&
      y >= within[1] &&
      box[2] <= within[2] &&
      box[3] <= within[3] &&
      !words.some((word) => crosses(box, word))
    )
  }
  return places.find(free) ?? places[0]!
}

/** How wide the flag of a mark is. */
export function flagWidth(mark: AlarmMark): number {
  const end = 10 + PIPS[mark.priority] * 5
  return isFilled(mark) ? end : end + 11
}
const isFilled = (mark: AlarmMark) => mark.unseen && !mark.returned

/**
 * A small tab beside the element, notched, with its pips. Filled in the
 * priority's colour while nobody has seen it; outlined with a hook once it is
 * gone unseen; hollow with a tick, the colour at its notched end, when it is
 * acknowledged: told apart without motion and without colour.
 */
export function drawFlag(parent: SVGElement, mark: AlarmMark): SVGElement {
  const tone = `var(--c-${mark.priority})`
  const filled = isFilled(mark)
  const w = flagWidth(mark)
  const flag = make(parent, 'g', {
    class: mark.unseen ? 'unseen' : '',
    'data-alarm': filled ? 'filled' : mark.returned ? 'returned' : 'seen',
    'pointer-events': 'none',
  })
  make(flag, 'path', {
    d: `M0 0H${w}V${HEIGHT}H0L3 10.5L0 7L3 3.5Z`,
    fill: filled ? tone : 'var(--c-sheet)',
    stroke: mark.returned ? tone : 'var(--c-ink)',
    'stroke-width': mark.returned ? 2 : 1,
  })
  if (!mark.unseen) make(flag, 'path', { d: `M0 0H5V${HEIGHT}H0L3 10.5L0 7L3 3.5Z`, fill: tone })
  const pips = !filled
    ? 'var(--c-ink)'
    : mark.priority === 'medium'
      ? 'var(--c-on-medium)'
      : 'var(--c-on-alarm)'
  for (let i = 0; i < PIPS[mark.priority]; i++)
    make(flag, 'rect', { x: 6.5 + i * 5, y: 3, width: 2.5, height: 8, fill: pips })
  const sign = mark.returned
    ? `M${w - 4} 3V7H${w - 11}m2.5-2.5L${w - 11} 7l2.5 2.5`
    : `M${w - 11} 7l3 3.5 5-7`
  if (!filled) make(flag, 'path', { d: sign, fill: 'none', stroke: 'var(--c-ink)', 'stroke-width': 1.75 })
  return flag
}
