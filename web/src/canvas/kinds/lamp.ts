import { colour } from '../../theme'
import { type ElementKind, type Renderer, str } from '../element'
import { attr, make, text, textWithin } from '../svg'
import { quietFill } from '../words'

const draw: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const r = Math.min(10, e.h / 2 - 2)
  const ring = make(g, 'circle', { cx: r + 2, cy: e.h / 2, r, stroke: 'var(--c-ink)', 'stroke-width': 1.75 })
  const label = make(g, 'text', {
    x: 2 * r + 12,
    y: e.h / 2,
    'font-size': 15,
    'dominant-baseline': 'central',
    fill: 'var(--c-ink)',
  })
  const state = make(g, 'text', {
    x: e.w - 2,
    y: e.h / 2,
    'font-size': 14,
    'text-anchor': 'end',
    'dominant-baseline': 'central',
    fill: quietFill,
  })
  return (p, s) => {
    const on = p.on === true
    attr(ring, 'fill', s.level === 'bad' ? 'none' : colour(on ? p.onColour : p.offColour))
    textWithin(label, str(p.caption), e.w - 2 * r - 46, 15)
    // The state in words too: never by colour alone.
    text(state, s.level === 'bad' ? '—' : str(p.text))
    attr(label, 'font-weight', on ? 600 : 400)
    attr(state, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
  }
}

const kind: ElementKind = {
  name: 'lamp',
  draw,
  speaks: true,
  reads: true,
  sample: { props: { text: '' } },
}
export default kind
