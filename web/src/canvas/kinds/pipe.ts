import { colour } from '../../theme'
import { type ElementKind, num, type Renderer } from '../element'
import { attr, make, show } from '../svg'
import { track } from '../outline'

/** A pipe: a wall of ink around its colour, and dashes that wander where it flows. */
const draw: Renderer = (g, e) => {
  const d = track(e, [0, 0, 1, e.h ? 1 : 0])
  const round = { d, fill: 'none', 'stroke-linejoin': 'round' }
  const wall = make(g, 'path', { ...round, stroke: 'var(--c-ink)' })
  const inside = make(g, 'path', round)
  const flow = make(g, 'path', {
    ...round,
    stroke: 'var(--c-ink)',
    'stroke-dasharray': '10 14',
    'stroke-width': 2,
  })
  return (p, s) => {
    const w = Math.max(3, num(p.width, 10))
    attr(wall, 'stroke-width', w)
    attr(inside, 'stroke-width', w - 3)
    attr(inside, 'stroke', colour(p.colour))
    const flows = p.flowing === true && p.flow !== 'none' && s.level !== 'bad'
    show(flow, flows)
    attr(flow, 'class', flows ? (p.flow === 'back' ? 'flowing back' : 'flowing') : '')
  }
}

const kind: ElementKind = {
  name: 'pipe',
  draw,
}
export default kind
