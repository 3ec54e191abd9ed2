import { type ElementKind } from '../element'
import { closed, track } from '../outline'

const draw = closed('path', (e) => ({
  d: track(e, [0.5, 0, 1, 0.4, 0.8, 1, 0.2, 1, 0, 0.4]) + 'Z',
  'stroke-linejoin': 'round',
}))

const kind: ElementKind = {
  name: 'polygon',
  draw,
}
export default kind
