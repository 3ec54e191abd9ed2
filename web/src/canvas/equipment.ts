import { colour } from '../theme'
import { num, type Props, type Renderer, type State } from './element'
import { attr, make, show } from './svg'

const ink = 'var(--c-ink)'

/** Marks that every machine can carry: a fault tab above, a hand at its corner. */
export function marks(g: SVGGElement, w: number) {
  const tab = make(g, 'g')
  // How urgent it is, its alarm says: the mark of the fault itself has no priority.
  const small = w < 44
  const length = small ? 20 : 38
  make(tab, 'path', { d: `M0 0h${length}v16h${-length}l4-4-4-4 4-4z`, fill: ink })
  make(tab, 'text', {
    x: small ? 8 : 9,
    y: 12,
    'font-size': 11,
    'font-weight': 700,
    fill: 'var(--c-sheet)',
  }).textContent = small ? '!' : 'Trip'
  const hand = make(g, 'g')
  make(hand, 'circle', { cx: 0, cy: 0, r: 9, fill: 'var(--c-sheet)', stroke: ink })
  make(hand, 'path', {
    d: 'M-4 1v-4m2.4 3v-5m2.4 5v-5m2.4 5v-3.5M-4 1c0 4 1.5 5 4 5s3.6-1.6 3.6-5',
    fill: 'none',
    stroke: ink,
    'stroke-width': 1.6,
    'stroke-linecap': 'round',
  })
  attr(hand, 'transform', `translate(${w - 4} 6)`)
  return (p: Props) => {
    show(tab, p.fault === true)
    attr(tab, 'transform', `translate(${w / 2 - length / 2} -14)`)
    show(hand, p.hand === true)
  }
}

export const fan: Renderer = (g, e) => {
  const r = Math.min(e.w, e.h) / 2 - 1
  const disc = make(g, 'circle', { cx: e.w / 2, cy: e.h / 2, r, stroke: ink, 'stroke-width': 2 })
  const turn = make(g, 'g', { transform: `translate(${e.w / 2} ${e.h / 2})` })
  const wheel = make(turn, 'g')
  // Three paddles of our own: a leaf from the hub, wider outside.
  const k = r / 25
  const blades = [0, 120, 240].map((a) =>
    make(wheel, 'path', {
      d: `M0 ${-3 * k}C${-11 * k} ${-9 * k} ${-9 * k} ${-20 * k} 0 ${-21 * k}C${7 * k} ${-20 * k} ${7 * k} ${-9 * k} ${3 * k} ${-1 * k}Z`,
      transform: `rotate(${a})`,
      stroke: ink,
      'stroke-width': 1.5,
    }),
  )
  const hub = make(turn, 'circle', { r: 4 * k })
  const mark = marks(g, e.w)
  return (p, s: State) => {
    const running = p.running === true && s.level !== 'bad'
    attr(disc, 'fill', running ? ink : 'var(--c-sheet)')
    for (const b of blades) attr(b, 'fill', running ? 'var(--c-sheet)' : 'none')
    attr(hub, 'fill', running ? 'var(--c-sheet)' : ink)
    attr(wheel, 'class', running ? 'turning' : '')
    attr(wheel, 'style', `animation-duration:${Math.max(0.8, 120 / Math.max(1, num(p.speed, 100)))}s`)
    mark(p)
  }
}

export const chamber: Renderer = (g, e) => {
  const roof = Math.min(34, e.h * 0.09)
  make(g, 'path', {
    d: `M0 ${roof}L${roof * 1.1} 4H${e.w - roof * 1.1}L${e.w} ${roof}Z`,
    fill: 'var(--c-metal)',
    stroke: ink,
    'stroke-width': 2,
    'stroke-linejoin': 'round',
  })
  const body = make(g, 'rect', { y: roof, width: e.w, height: e.h - roof, stroke: ink, 'stroke-width': 2 })
  const air = 'fill:none;stroke:var(--c-quiet);stroke-width:1.5;stroke-dasharray:6 6'
  const m = e.h - roof
  make(g, 'path', {
    d: `M${e.w * 0.87} ${roof + m * 0.28}C${e.w * 0.95} ${roof + m * 0.45} ${e.w * 0.95} ${roof + m * 0.6} ${e.w * 0.86} ${roof + m * 0.74}`,
    style: air,
  })
  make(g, 'path', {
    d: `M${e.w * 0.22} ${roof + m * 0.74}C${e.w * 0.13} ${roof + m * 0.6} ${e.w * 0.15} ${roof + m * 0.42} ${e.w * 0.2} ${roof + m * 0.3}`,
    style: air,
  })
  const door = make(g, 'rect', { fill: ink })
  return (p) => {
    attr(body, 'fill', colour(p.fill))
    const open = p.open === true
    attr(door, 'x', e.w - 22)
    attr(door, 'y', open ? roof - m * 0.18 : roof + m * 0.3)
    attr(door, 'width', 7)
    attr(door, 'height', m * (open ? 0.4 : 0.68))
  }
}

export const stack: Renderer = (g, e) => {
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

export const damper: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'var(--c-sheet)', stroke: ink, 'stroke-width': 2 })
  const flap = make(g, 'line', { 'stroke-width': 3.5, stroke: ink, 'stroke-linecap': 'round' })
  make(g, 'circle', { cx: e.w / 2, cy: e.h / 2, r: 3, fill: ink })
  return (p) => {
    const a = (Math.max(0, Math.min(100, num(p.position))) / 100) * (Math.PI / 2)
    const half = Math.min(e.w / 2 - 4, e.h / 2 - 3 + ((e.w - e.h) / 2) * Math.cos(a))
    attr(flap, 'x1', e.w / 2 - Math.cos(a) * half)
    attr(flap, 'x2', e.w / 2 + Math.cos(a) * half)
    attr(flap, 'y1', e.h / 2 + Math.sin(a) * (e.h / 2 - 3))
    attr(flap, 'y2', e.h / 2 - Math.sin(a) * (e.h / 2 - 3))
  }
}

export const coil: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const waves = [0.2, 0.5, 0.8].map((f) => {
    const y = e.h * f
    const w = e.w / 4
    return make(g, 'path', {
      d: `M0 ${y}q${w / 2} ${-e.h * 0.16} ${w} 0t${w} 0t${w} 0t${w} 0`,
      fill: 'none',
      'stroke-width': 2.5,
      'stroke-linecap': 'round',
    })
  })
  return (p) => {
    // One wave for each third of the output that is on.
    const lit = Math.ceil(num(p.output) / 34)
    waves.forEach((w, i) => {
      attr(w, 'stroke', 2 - i < lit ? ink : 'var(--c-metal)')
      attr(w, 'stroke-width', 2 - i < lit ? 3 : 2)
    })
  }
}

export const spray: Renderer = (g, e) => {
  make(g, 'line', { x1: 0, x2: e.w, y1: 3, y2: 3, stroke: ink, 'stroke-width': 3 })
  const n = 5
  const drops = make(g, 'g', { stroke: 'var(--c-water)', 'stroke-width': 2, 'stroke-dasharray': '3 3' })
  for (let i = 0; i < n; i++) {
    const x = (e.w * (i + 0.5)) / n
    make(g, 'rect', { x: x - 2, y: 3, width: 4, height: 6, fill: ink })
    make(drops, 'line', { x1: x, x2: x - 3, y1: 10, y2: e.h })
    make(drops, 'line', { x1: x, x2: x + 3, y1: 10, y2: e.h })
  }
  return (p) => show(drops, p.open === true)
}

export const car: Renderer = (g, e) => {
  const body = make(g, 'g')
  const deck = e.h * 0.62
  const load = make(body, 'g')
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 5; c++)
      make(load, 'rect', {
        x: e.w * (0.14 + c * 0.145),
        y: deck - (r + 1) * e.h * 0.17,
        width: e.w * 0.132,
        height: e.h * 0.13,
        fill: 'var(--c-wood)',
        stroke: 'var(--c-wood-edge)',
      })
  make(body, 'rect', { y: deck, width: e.w, height: e.h * 0.16, fill: ink })
  make(body, 'path', {
    d: `M4 ${deck}V${e.h * 0.2}M${e.w - 4} ${deck}V${e.h * 0.2}`,
    stroke: ink,
    'stroke-width': 3.5,
  })
  for (const x of [0.2, 0.8]) {
    make(body, 'circle', {
      cx: e.w * x,
      cy: e.h * 0.86,
      r: e.h * 0.13,
      fill: 'var(--c-sheet)',
      stroke: ink,
      'stroke-width': 2.5,
    })
    make(body, 'circle', { cx: e.w * x, cy: e.h * 0.86, r: 2.5, fill: ink })
  }
  const mark = marks(body, e.w)
  return (p, s) => {
    const at = Math.max(-0.05, Math.min(1, num(p.position))) * num(p.travel)
    attr(body, 'transform', `translate(${at} 0)`)
    show(load, p.loaded === true && s.level !== 'bad')
    mark(p)
  }
}

export const track: Renderer = (g, e) => {
  const sleepers = make(g, 'g')
  make(g, 'rect', { y: 1, width: e.w, height: 4, fill: ink })
  let drawn = 0
  return (p) => {
    const n = Math.max(2, Math.min(120, Math.round(num(p.sleepers, 24))))
    if (n === drawn) return
    drawn = n
    sleepers.replaceChildren()
    for (let i = 0; i < n; i++)
      make(sleepers, 'rect', {
        x: (e.w - 10) * (i / (n - 1)),
        y: 5,
        width: 10,
        height: Math.max(4, e.h - 8),
        fill: 'var(--c-wood-edge)',
      })
  }
}

export const burner: Renderer = (g, e) => {
  const y = e.h * 0.62
  make(g, 'path', {
    d: `M${e.w * 0.1} ${e.h - 2}L${e.w * 0.22} ${y}H${e.w * 0.78}L${e.w * 0.9} ${e.h - 2}Z`,
    fill: 'var(--c-sheet)',
    stroke: ink,
    'stroke-width': 2,
    'stroke-linejoin': 'round',
  })
  const flames = make(g, 'g')
  const tongue = (x: number, h: number) =>
    make(flames, 'path', {
      d: `M${x} ${y - 3}c${-h * 0.42} ${-h * 0.3} ${-h * 0.1} ${-h * 0.55} 0 ${-h}c${h * 0.1} ${h * 0.45} ${h * 0.42} ${h * 0.7} 0 ${h}z`,
      'stroke-width': 1.75,
      stroke: ink,
    })
  const all = [tongue(e.w * 0.32, e.h * 0.36), tongue(e.w * 0.5, e.h * 0.54), tongue(e.w * 0.68, e.h * 0.36)]
  const mark = marks(g, e.w)
  return (p, s) => {
    const lit = p.running === true && s.level !== 'bad'
    for (const f of all) {
      attr(f, 'fill', lit ? ink : 'none')
      attr(f, 'stroke-dasharray', lit ? 'none' : '3 3')
    }
    mark(p)
  }
}
