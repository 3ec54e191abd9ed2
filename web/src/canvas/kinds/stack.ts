import { type ElementKind, num, type Renderer } from '../element'
import { make } from '../svg'
import { ink } from '../marks'

const draw: Renderer = (g, e) => {
  const boards = make(g, 'g')
  let drawn = ''
  return (p) => {
    const rows = Math.max(1, Math.min(30, Math.round(num(p.rows, 9))))
    const cols = Math.max(1, Math.min(40, Math.round(num(p.columns, 11))))
    // Wetter timber is darker; four shades are enough to see it dry.
    const shade = Math.max(0, Math.min(3, Math.floor(num(p.moisture, 20) / 12)))
    const key = `${rows}/${cols}/${shade}`
    if (key === drawn) return
    drawn = key
    boards.replaceChildren()
    // On a small stack bearers and overhangs are small too.
    const k = Math.min(1, e.w / 120)
    const bearer = 12 * k
    const pitch = (e.h - bearer) / rows
    const w = e.w / cols
    for (let r = 0; r < rows; r++) {
      const y = r * pitch
      for (let c = 0; c < cols; c++)
        make(boards, 'rect', {
          x: c * w + 1,
          y: y + 1,
          width: w - 2,
          height: pitch * 0.68,
          fill: 'var(--c-wood)',
          stroke: 'var(--c-wood-edge)',
          'stroke-width': 0.9,
          'fill-opacity': 0.7 + shade * 0.1,
        })
      make(boards, 'line', {
        x1: -4 * k,
        x2: e.w + 4 * k,
        y1: y + pitch * 0.84,
        y2: y + pitch * 0.84,
        stroke: 'var(--c-wood-edge)',
        'stroke-width': 1.5 * k,
      })
    }
    make(boards, 'line', {
      x1: -12 * k,
      x2: e.w + 12 * k,
      y1: e.h - bearer + 4 * k,
      y2: e.h - bearer + 4 * k,
      stroke: ink,
      'stroke-width': 3 * k,
    })
    for (const x of [0.06, 0.5, 0.94])
      make(boards, 'rect', {
        x: e.w * x - 3 * k,
        y: e.h - bearer + 4 * k,
        width: 6 * k,
        height: bearer - 4 * k,
        fill: ink,
      })
  }
}

const kind: ElementKind = {
  name: 'stack',
  draw,
  backdrop: true,
}
export default kind
