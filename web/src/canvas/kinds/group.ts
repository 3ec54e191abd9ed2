import type { Element } from '../../api/client'
import type { ElementKind } from '../element'

/** Elements that move as one; they keep the screen's coordinates. */
const kind: ElementKind = {
  name: 'group',
  draw: () => () => {},
  holds: true,
  gathers: true,
}
export default kind

/** A group that reaches about what lies in it. */
export const groupOf = (around: { x: number; y: number; w: number; h: number }): Element => ({
  ...around,
  kind: kind.name,
  z: 0,
})
