import { type ElementKind, num, type Renderer, type State } from '../element'
import { attr, make } from '../svg'
import { ink, marks } from '../marks'

const draw: Renderer = (g, e) => {
  const r = Math.min(e.w, e.h) / 2 - 1
  const disc = make(g, 'circle', { cx: e.w / 2, cy: e.h / 2, r, stroke: ink, 'stroke-width': 2 })
  const turn = make(g, 'g', { transform: `translate(${e.w / 2} ${e.h / 2})` })
  const wheel = make(turn, 'g')
  // Three paddles of our own: a leaf from the hub, wider outside.
  const k = r / 25
  const blades = [0, 120, 240].map((a) =>
    make(wheel, 'path', {
      d: `M0 ${-3 * k}C${-11 * k} ${-9 * k} ${-9 * k} ${-20 * k} 0 ${-21 * k}C${7 * k} ${-20 * k} ${7 * k} ${-9 * k} ${3 * k} ${-1 * k}Z`,
      transform: `rotate(${a})`,
      stroke: ink,
      'stroke-width': 1.5,
    }),
  )
  const hub = make(turn, 'circle', { r: 4 * k })
  const mark = marks(g, e.w)
  return (p, s: State) => {
    const running = p.running === true && s.level !== 'bad'
    attr(disc, 'fill', running ? ink : 'var(--c-sheet)')
    for (const b of blades) attr(b, 'fill', running ? 'var(--c-sheet)' : 'none')
    attr(hub, 'fill', running ? 'var(--c-sheet)' : ink)
    attr(wheel, 'class', running ? 'turning' : '')
    attr(wheel, 'style', `animation-duration:${Math.max(0.8, 120 / Math.max(1, num(p.speed, 100)))}s`)
    mark(p)
  }
}

const kind: ElementKind = {
  name: 'fan',
  draw,
}
export default kind
