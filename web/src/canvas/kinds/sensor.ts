import { type ElementKind, type Renderer, str } from '../element'
import { attr, make, show, text } from '../svg'
import { marks } from '../marks'

/** A bubble of instrument letters by ISA-5.1: a line across it when it is on the panel, a dashed one when it is local. */
const draw: Renderer = (g, e) => {
  const r = Math.min(e.w, e.h - 14) / 2 - 1
  make(g, 'path', { d: `M${e.w / 2} ${2 * r + 2}V${e.h}`, stroke: 'var(--c-ink)', 'stroke-width': 2 })
  make(g, 'circle', {
    cx: e.w / 2,
    cy: r + 1,
    r,
    fill: 'var(--c-sheet)',
    stroke: 'var(--c-ink)',
    'stroke-width': 2,
  })
  const across = make(g, 'path', {
    d: `M${e.w / 2 - r} ${r + 1}H${e.w / 2 + r}`,
    stroke: 'var(--c-ink)',
    'stroke-width': 1.5,
  })
  const size = Math.max(9, r * 0.62)
  const letters = make(g, 'text', {
    x: e.w / 2,
    y: r - size * 0.1,
    'text-anchor': 'middle',
    'font-size': size,
    'font-weight': 650,
    fill: 'var(--c-ink)',
  })
  const loop = make(g, 'text', {
    x: e.w / 2,
    y: r + size + 1,
    'text-anchor': 'middle',
    'font-size': size * 0.9,
    fill: 'var(--c-ink)',
  })
  const mark = marks(g, e.w)
  return (p) => {
    show(across, p.place !== 'field')
    attr(across, 'stroke-dasharray', p.place === 'local' ? '4 3' : 'none')
    text(letters, str(p.letters, 'TI'))
    text(loop, str(p.loop))
    mark(p)
  }
}

const kind: ElementKind = {
  name: 'sensor',
  draw,
}
export default kind
