import { colour } from '../theme'
import { num, type Props, str } from './element'
import { attr, lines, make, type Vertical } from './svg'
import { type SceneElement } from '../live/live'

const anchors: Record<string, string> = { left: 'start', centre: 'middle', right: 'end' }

/** Puts a line of text into a box of a width by its alignment. */
export function align(t: SVGTextElement, how: unknown, width: number, inset = 0): void {
  const a = anchors[str(how)] ?? 'start'
  attr(t, 'text-anchor', a)
  attr(t, 'x', a === 'start' ? inset : a === 'end' ? width - inset : width / 2)
}

/** On the desk field quiet text is a little darker. */
export const quietFill = 'var(--c-field-quiet)'

export const textColour = (v: unknown): string => (v === 'quiet' ? quietFill : colour(v))

/** The family of figures. */
export const mono = 'var(--mono)'

/** Draws a text in a box by the look that its properties give. */
export function textBox(g: SVGGElement, e: SceneElement) {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const t = make(g, 'text', { 'dominant-baseline': 'central' })
  return (p: Props, s: string) => {
    const size = num(p.size, 16)
    const a = anchors[str(p.align)] ?? 'start'
    const place = str(p.vertical, 'middle') as Vertical
    attr(t, 'text-anchor', a)
    attr(t, 'font-size', size)
    attr(t, 'font-weight', Math.max(200, Math.min(800, num(p.weight, p.bold ? 700 : 400))))
    attr(t, 'font-style', p.italic ? 'italic' : 'normal')
    attr(t, 'font-family', p.font === 'figures' ? 'var(--mono)' : 'inherit')
    attr(t, 'fill', textColour(p.colour))
    lines(
      t,
      s,
      a === 'start' ? 0 : a === 'end' ? e.w : e.w / 2,
      place === 'top' ? 0 : place === 'bottom' ? e.h : e.h / 2,
      size,
      num(p.leading, 1.25),
      place,
    )
  }
}
