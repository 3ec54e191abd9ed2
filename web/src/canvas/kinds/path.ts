import { type ElementKind, type Renderer, str } from '../element'
import { attr, make } from '../svg'
import { shape } from '../outline'

const draw: Renderer = (g, e) => {
  const fit = `scale(${e.w / 100} ${e.h / 100})`
  const body = make(g, 'path', {
    transform: fit,
    d: str(e.props.path),
    'vector-effect': 'non-scaling-stroke',
    'stroke-linejoin': 'round',
  })
  const update = shape(g, e, body, () => {
    const c = body.cloneNode() as SVGElement
    return c
  })
  return (p) => {
    attr(body, 'd', str(p.path))
    update(p)
  }
}

const kind: ElementKind = {
  name: 'path',
  draw,
}
export default kind
