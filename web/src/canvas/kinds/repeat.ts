import type { Element } from '../../api/client'
import type { ElementKind } from '../element'
import { field } from '../field'

/** A symbol for each of many. */
const kind: ElementKind = { name: 'repeat', draw: field, holds: true }
export default kind

const GAP = 8
const MOST_COLUMNS = 4

/** A grid of everything in an array, each as large as its symbol is drawn; array is any one of them. */
export function repeatOf(
  symbol: { id: string; width: number; height: number },
  x: number,
  y: number,
  array: string,
  many: number,
): Element {
  const columns = Math.min(many, MOST_COLUMNS)
  return {
    kind: kind.name,
    x,
    y,
    w: columns * (symbol.width + GAP) - GAP,
    h: Math.ceil(many / columns) * (symbol.height + GAP) - GAP,
    z: 0,
    props: { symbol: symbol.id, over: 'array', array, columns, gap: GAP },
  }
}
