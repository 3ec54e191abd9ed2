import { type ElementKind } from '../element'
import { closed } from '../outline'

const draw = closed('ellipse', (e) => ({ cx: e.w / 2, cy: e.h / 2, rx: e.w / 2, ry: e.h / 2 }))

const kind: ElementKind = {
  name: 'ellipse',
  draw,
}
export default kind
