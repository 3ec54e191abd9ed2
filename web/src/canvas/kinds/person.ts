import { type ElementKind, type Renderer } from '../element'
import { textBox } from '../words'

const draw: Renderer = (g, e, around) => {
  const draw = textBox(g, e)
  return (p) => draw(p, around.person() || '—')
}

const kind: ElementKind = {
  name: 'person',
  draw,
}
export default kind
