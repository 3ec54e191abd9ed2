import type { Element } from '../../api/client'
import { type ElementKind, type Renderer, str } from '../element'
import { make, show, text, textWithin } from '../svg'
import { mono, quietFill } from '../words'

/** A table of tags: a name and a value in each line. */
const draw: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'var(--c-sheet)', stroke: 'var(--c-line)' })
  const head = make(g, 'text', { x: 10, y: 19, 'font-size': 14, 'font-weight': 650, fill: 'var(--c-ink)' })
  const top = str(e.props.caption) ? 28 : 0
  const rows = (e.rows ?? []).map((row, i, all) => {
    const h = Math.min(32, (e.h - top) / all.length)
    const y = top + i * h
    const title = make(g, 'text', {
      x: 10,
      y: y + h / 2,
      'font-size': 14,
      'dominant-baseline': 'central',
      fill: quietFill,
    })
    textWithin(title, row.title, e.w * 0.62, 14)
    const rule = make(g, 'line', { x1: 0, x2: e.w, y1: y, y2: y, stroke: 'var(--c-line)' })
    return {
      rule,
      value: make(g, 'text', {
        x: e.w - 10,
        y: y + h / 2,
        'font-size': 14,
        'font-weight': 600,
        'font-family': mono,
        'text-anchor': 'end',
        'dominant-baseline': 'central',
        fill: 'var(--c-ink)',
      }),
    }
  })
  return (p) => {
    text(head, str(p.caption))
    rows.forEach(({ value, rule }, i) => {
      show(rule, p.lines !== false)
      text(value, str(p[`row${i}`], '—'))
    })
  }
}

const kind: ElementKind = {
  name: 'table',
  draw,
  speaks: true,
}
export default kind

const ROW = 32

/** A table of tags, with a caption above them where one is given. */
export const tableOf = (x: number, y: number, tags: string[], caption = ''): Element => ({
  kind: kind.name,
  x,
  y,
  w: 280,
  h: Math.max(64, (tags.length + (caption ? 1 : 0)) * ROW),
  z: 0,
  tags,
  props: caption ? { caption } : {},
})
