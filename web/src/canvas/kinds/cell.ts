import type { ElementKind } from '../element'

/** One place of a repeat or a tab set; the server makes it. */
const kind: ElementKind = {
  name: 'cell',
  draw: () => () => {},
  holds: true,
}
export default kind
