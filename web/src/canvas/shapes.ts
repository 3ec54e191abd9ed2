import { colour } from '../theme'
import { num, str, type Renderer } from './element'
import { attr, make, text } from './svg'

export const rect: Renderer = (g, e) => {
  const r = make(g, 'rect', { width: e.w, height: e.h })
  return (p) => {
    attr(r, 'rx', num(p.radius))
    attr(r, 'fill', colour(p.fill))
    attr(r, 'stroke', colour(p.stroke))
    attr(r, 'stroke-width', num(p.strokeWidth, 1))
  }
}

export const ellipse: Renderer = (g, e) => {
  const r = make(g, 'ellipse', { cx: e.w / 2, cy: e.h / 2, rx: e.w / 2, ry: e.h / 2 })
  return (p) => {
    attr(r, 'fill', colour(p.fill))
    attr(r, 'stroke', colour(p.stroke))
    attr(r, 'stroke-width', num(p.strokeWidth, 1))
  }
}

const dashes: Record<string, string> = { solid: 'none', dashed: '8 6', dotted: '2 5' }

export const line: Renderer = (g, e) => {
  make(g, 'rect', { y: -6, width: e.w, height: e.h + 12, fill: 'transparent' })
  const l = make(g, 'line', { x1: 0, x2: e.w })
  return (p) => {
    attr(l, 'y1', p.rising ? e.h : 0)
    attr(l, 'y2', p.rising ? 0 : e.h)
    attr(l, 'stroke', colour(p.stroke))
    attr(l, 'stroke-width', num(p.strokeWidth, 2))
    attr(l, 'stroke-dasharray', dashes[str(p.dash)] ?? 'none')
  }
}

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

export const textElement: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const t = make(g, 'text', { 'dominant-baseline': 'central', y: e.h / 2 })
  return (p) => {
    text(t, str(p.text))
    attr(t, 'font-size', num(p.size, 16))
    attr(t, 'font-weight', p.bold ? 700 : 400)
    attr(t, 'fill', textColour(p.colour))
    align(t, p.align, e.w)
  }
}
