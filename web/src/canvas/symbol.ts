import { colour } from '../theme'
import { num, type Props, type Renderer, type State } from './element'
import { attr, make, show } from './svg'
import { marks } from './marks'

// The stock of equipment, drawn in one style: two-pixel ink, rounded joints,
// flat faces. Running is filled ink, stopped is hollow, half open is half
// filled; a fault carries its tab, hand mode its mark. Each drawing is a list
// of parts on a field of its own size; lines keep their width at any size.

/** How a part is drawn. body fills when it runs; over lies on a body and turns with it; the rest never changes. */
type Role = 'body' | 'over' | 'line' | 'solid' | 'open' | 'metal' | 'first' | 'second' | 'seen' | 'thick'

export type Part = [Role, string]

export interface Drawing {
  w: number
  h: number
  parts: Part[]
  /** A region that is filled to the level, as a path. */
  vessel?: string
  /** Moves something by the live values. */
  moves?: (g: SVGGElement) => (p: Props, s: State) => void
  /** Which property makes it active; running where none is given. */
  on?: string
}

let clips = 0

/** Draws a drawing of the stock and brings it to its state. */
export function drawn(d: Drawing): Renderer {
  return (g, e) => {
    make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
    const field = make(g, 'g', {
      transform: `scale(${e.w / d.w} ${e.h / d.h})`,
      'stroke-linejoin': 'round',
      'stroke-linecap': 'round',
    })
    let level: SVGRectElement | undefined
    if (d.vessel) {
      make(field, 'path', { d: d.vessel, fill: 'var(--c-sheet)' })
      const id = `vessel-${++clips}`
      make(make(field, 'clipPath', { id }), 'path', { d: d.vessel })
      level = make(field, 'rect', { width: d.w, 'clip-path': `url(#${id})` })
    }
    const drawn = d.parts.map(([role, path]) => ({
      role,
      node: make(field, 'path', {
        d: path,
        stroke: 'var(--c-ink)',
        'stroke-width': role === 'thick' ? 3 : 2,
        'vector-effect': 'non-scaling-stroke',
        fill:
          role === 'solid'
            ? 'var(--c-ink)'
            : role === 'open'
              ? 'var(--c-sheet)'
              : role === 'metal'
                ? 'var(--c-metal)'
                : 'none',
      }),
    }))
    const move = d.moves?.(field)
    const mark = marks(g, e.w)
    return (p, s) => {
      const good = s.level !== 'bad'
      const on = good && p[d.on ?? 'running'] === true
      const open = good ? num(p.position) : 0
      for (const { role, node } of drawn) {
        if (role === 'body') attr(node, 'fill', on ? 'var(--c-ink)' : 'var(--c-sheet)')
        else if (role === 'over') attr(node, 'stroke', on ? 'var(--c-sheet)' : 'var(--c-ink)')
        else if (role === 'first') attr(node, 'fill', open > 2 ? 'var(--c-ink)' : 'var(--c-sheet)')
        else if (role === 'second') attr(node, 'fill', open > 97 ? 'var(--c-ink)' : 'var(--c-sheet)')
        else if (role === 'seen') show(node, on)
      }
      if (level) {
        const l = good ? Math.max(0, Math.min(100, num(p.level))) / 100 : 0
        attr(level, 'y', d.h * (1 - l))
        attr(level, 'height', d.h * l)
        attr(level, 'fill', colour(p.levelColour ?? 'water'))
      }
      move?.(p, s)
      mark(p)
    }
  }
}
