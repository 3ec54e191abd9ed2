import type { Element } from '../../api/client'
import { type ElementKind, type Renderer, str } from '../element'
import { textBox } from '../words'

const draw: Renderer = (g, e) => {
  const draw = textBox(g, e)
  return (p) => draw(p, str(p.text))
}

const kind: ElementKind = {
  name: 'text',
  draw,
  sample: { props: { text: 'Text' } },
}
export default kind

/** A line of text. */
export const textOf = (text: string, x: number, y: number, w: number): Element => ({
  kind: kind.name,
  x,
  y,
  w,
  h: 24,
  z: 0,
  props: { text },
})
