import { colour } from '../theme'
import { num, type Renderer, str } from './element'
import { attr, make, text, textWithin } from './svg'
import { align, mono, quietFill, textColour } from './words'

/** A value with its label above it; words are cut to the width, figures never. */
export const labelled =
  (words: boolean): Renderer =>
  (g, e) => {
    const box = make(g, 'rect', { width: e.w, rx: 3 })
    const caption = make(g, 'text', { 'font-size': 14, fill: quietFill, y: 13 })
    const value = make(g, 'text', {
      'font-weight': 600,
      'dominant-baseline': 'central',
      ...(words ? {} : { 'font-family': mono }),
    })
    return (p, s) => {
      const top = str(p.caption) ? 20 : 0
      const filled = p.fill !== 'none'
      const size = num(p.size, words ? 16 : 18)
      const shown = s.level === 'bad' ? '—' : str(p.text, '—')
      attr(box, 'y', top)
      attr(box, 'height', Math.max(0, e.h - top))
      attr(box, 'fill', filled ? colour(p.fill) : 'transparent')
      attr(box, 'stroke', filled ? 'var(--c-ink)' : 'none')
      textWithin(caption, str(p.caption), e.w, 14)
      align(caption, p.align, e.w)
      if (words) textWithin(value, shown, e.w - (filled ? 12 : 0), size)
      else text(value, shown)
      attr(value, 'y', top + (e.h - top) / 2)
      attr(value, 'font-size', size)
      attr(value, 'fill', textColour(p.colour))
      attr(value, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
      align(value, p.align, e.w, filled ? 6 : 0)
    }
  }
