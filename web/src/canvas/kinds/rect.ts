import { type ElementKind } from '../element'
import { closed } from '../outline'

const draw = closed('rect', (e) => ({ width: e.w, height: e.h }))

const kind: ElementKind = {
  name: 'rect',
  draw,
}
export default kind
