import { colour } from '../theme'
import { type Props } from './element'
import { attr, make, show } from './svg'

/** How lines are dashed, by the property's choices. */
export const dashes: Record<string, string> = { solid: 'none', dashed: '8 6', dotted: '2 5' }

/** Arrowheads at the ends of a line, as paths of their own so that they take its colour. */
export function heads(
  g: SVGGElement,
  from: [number, number, number, number],
  to: [number, number, number, number],
) {
  const head = ([x, y, dx, dy]: [number, number, number, number]) => {
    const k = 10 / (Math.hypot(dx, dy) || 1)
    const [ux, uy] = [dx * k, dy * k]
    return make(g, 'path', {
      d: `M${x} ${y}L${x - ux - uy * 0.5} ${y - uy + ux * 0.5}L${x - ux + uy * 0.5} ${y - uy - ux * 0.5}Z`,
    })
  }
  const end = head(to)
  const start = head(from)
  return (p: Props) => {
    show(end, p.ends === 'end' || p.ends === 'both')
    show(start, p.ends === 'both')
    attr(end, 'fill', colour(p.stroke))
    attr(start, 'fill', colour(p.stroke))
  }
}
