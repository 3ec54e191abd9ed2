import { colour } from '../theme'
import { num, type Props, type Renderer, str } from './element'
import { attr, make, show } from './svg'
import { type SceneElement } from '../live/live'

let clips = 0

/** A shape with its fill, outline, and a level that fills it from below. */
export function shape(g: SVGGElement, e: SceneElement, body: SVGElement, copy: () => SVGElement) {
  // The level is made when it is first used.
  let level: SVGRectElement | undefined
  return (p: Props) => {
    attr(body, 'fill', colour(p.fill))
    attr(body, 'stroke', colour(p.stroke))
    attr(body, 'stroke-width', num(p.strokeWidth, 1))
    const filled = str(p.levelColour, 'none') !== 'none'
    if (filled && !level) {
      const id = `level-${++clips}`
      make(g, 'clipPath', { id }).appendChild(copy())
      level = make(g, 'rect', { width: e.w, 'clip-path': `url(#${id})`, 'pointer-events': 'none' })
    }
    if (!level) return
    show(level, filled)
    const h = (e.h * Math.max(0, Math.min(100, num(p.level)))) / 100
    attr(level, 'y', e.h - h)
    attr(level, 'height', h)
    attr(level, 'fill', colour(p.levelColour))
  }
}

export function closed(
  name: 'rect' | 'ellipse' | 'path',
  attrs: (e: SceneElement) => Record<string, string | number>,
): Renderer {
  return (g, e) => {
    const body = make(g, name, attrs(e))
    const update = shape(g, e, body, () => body.cloneNode() as SVGElement)
    return (p) => {
      if (name === 'rect') attr(body, 'rx', num(p.radius))
      update(p)
    }
  }
}

/** The points of an element in pixels, as a path; some to begin with where it has none. */
export function track(e: SceneElement, fallback: number[]): string {
  const p = e.points?.length ? e.points : fallback
  let d = ''
  for (let i = 0; i + 1 < p.length; i += 2) d += `${i ? 'L' : 'M'}${p[i]! * e.w} ${p[i + 1]! * e.h}`
  return d
}
