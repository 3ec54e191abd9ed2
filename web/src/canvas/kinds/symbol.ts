import type { Element } from '../../api/client'
import type { ElementKind } from '../element'
import { field } from '../field'

/** A screen drawn as a symbol. */
const kind: ElementKind = { name: 'symbol', draw: field, holds: true }
export default kind

/** A symbol in its own size, with what is given for its parameters. */
export const symbolOf = (
  symbol: { id: string; width: number; height: number },
  x: number,
  y: number,
  args: Record<string, string>,
): Element => ({
  kind: kind.name,
  x,
  y,
  w: symbol.width,
  h: symbol.height,
  z: 0,
  props: { symbol: symbol.id },
  args,
})
