import type { ElementKind } from '../element'
import { draw } from './entry'

const kind: ElementKind = {
  name: 'textentry',
  draw,
  speaks: true,
  press: (item, hand) => hand.say(item, 'enter'),
}
export default kind
