import type { SceneElement } from '../live/live'
import { colour } from '../theme'
import { num, str, type Props, type Renderer } from './element'
import { attr, lines, type Vertical, make, show, text } from './svg'

let clips = 0

/** A shape with its fill, outline, and a level that fills it from below. */
function shape(g: SVGGElement, e: SceneElement, body: SVGElement, copy: () => SVGElement) {
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

function closed(
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

export const rect = closed('rect', (e) => ({ width: e.w, height: e.h }))
export const ellipse = closed('ellipse', (e) => ({ cx: e.w / 2, cy: e.h / 2, rx: e.w / 2, ry: e.h / 2 }))

/** The points of an element in pixels, as a path; some to begin with where it has none. */
function track(e: SceneElement, fallback: number[]): string {
  const p = e.points?.length ? e.points : fallback
  let d = ''
  for (let i = 0; i + 1 < p.length; i += 2) d += `${i ? 'L' : 'M'}${p[i]! * e.w} ${p[i + 1]! * e.h}`
  return d
}
export const polygon = closed('path', (e) => ({
  d: track(e, [0.5, 0, 1, 0.4, 0.8, 1, 0.2, 1, 0, 0.4]) + 'Z',
  'stroke-linejoin': 'round',
}))

const dashes: Record<string, string> = { solid: 'none', dashed: '8 6', dotted: '2 5' }

/** Arrowheads at the ends of a line, as paths of their own so that they take its colour. */
function heads(g: SVGGElement, from: [number, number, number, number], to: [number, number, number, number]) {
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

export const line: Renderer = (g, e) => {
  make(g, 'rect', { y: -6, width: e.w, height: e.h + 12, fill: 'transparent' })
  const l = make(g, 'line', { x1: 0, x2: e.w })
  const up = e.props.rising === true
  const [y1, y2] = up ? [e.h, 0] : [0, e.h]
  const ends = heads(g, [0, y1, -e.w, y1 - y2], [e.w, y2, e.w, y2 - y1])
  return (p) => {
    attr(l, 'y1', p.rising ? e.h : 0)
    attr(l, 'y2', p.rising ? 0 : e.h)
    attr(l, 'stroke', colour(p.stroke))
    attr(l, 'stroke-width', num(p.strokeWidth, 2))
    attr(l, 'stroke-dasharray', dashes[str(p.dash)] ?? 'none')
    ends(p)
  }
}

export const polyline: Renderer = (g, e) => {
  const pts = e.points?.length ? e.points : [0, 1, 0.35, 0.2, 0.65, 0.8, 1, 0]
  const d = track(e, pts)
  make(g, 'path', { d, fill: 'none', stroke: 'transparent', 'stroke-width': 12 })
  const l = make(g, 'path', { d, fill: 'none', 'stroke-linejoin': 'round' })
  const at = (i: number): [number, number] => [pts[i * 2]! * e.w, pts[i * 2 + 1]! * e.h]
  const n = pts.length / 2
  const [a, b, y, z] = [at(0), at(1), at(n - 2), at(n - 1)]
  const ends = heads(g, [a[0], a[1], a[0] - b[0], a[1] - b[1]], [z[0], z[1], z[0] - y[0], z[1] - y[1]])
  return (p) => {
    attr(l, 'stroke', colour(p.stroke))
    attr(l, 'stroke-width', num(p.strokeWidth, 2))
    attr(l, 'stroke-dasharray', dashes[str(p.dash)] ?? 'none')
    ends(p)
  }
}

/** A pipe: a wall of ink around its colour, and dashes that wander where it flows. */
export const pipe: Renderer = (g, e) => {
  const d = track(e, [0, 0, 1, e.h ? 1 : 0])
  const round = { d, fill: 'none', 'stroke-linejoin': 'round' }
  const wall = make(g, 'path', { ...round, stroke: 'var(--c-ink)' })
  const inside = make(g, 'path', round)
  const flow = make(g, 'path', {
    ...round,
    stroke: 'var(--c-ink)',
    'stroke-dasharray': '10 14',
    'stroke-width': 2,
  })
  return (p, s) => {
    const w = Math.max(3, num(p.width, 10))
    attr(wall, 'stroke-width', w)
    attr(inside, 'stroke-width', w - 3)
    attr(inside, 'stroke', colour(p.colour))
    const flows = p.flowing === true && p.flow !== 'none' && s.level !== 'bad'
    show(flow, flows)
    attr(flow, 'class', flows ? (p.flow === 'back' ? 'flowing back' : 'flowing') : '')
  }
}

export const arc: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const a = make(g, 'path')
  return (p) => {
    const from = (num(p.from) * Math.PI) / 180
    const sweep = Math.max(-359.99, Math.min(359.99, num(p.to, 90) - num(p.from)))
    const to = from + (sweep * Math.PI) / 180
    const at = (t: number) => `${e.w / 2 + (Math.sin(t) * e.w) / 2} ${e.h / 2 - (Math.cos(t) * e.h) / 2}`
    attr(
      a,
      'd',
      `M${at(from)}A${e.w / 2} ${e.h / 2} 0 ${Math.abs(sweep) > 180 ? 1 : 0} ${sweep > 0 ? 1 : 0} ${at(to)}${p.pie ? `L${e.w / 2} ${e.h / 2}Z` : ''}`,
    )
    attr(a, 'fill', colour(p.fill))
    attr(a, 'stroke', colour(p.stroke))
    attr(a, 'stroke-width', num(p.strokeWidth, 2))
  }
}

export const path: Renderer = (g, e) => {
  const fit = `scale(${e.w / 100} ${e.h / 100})`
  const body = make(g, 'path', {
    transform: fit,
    d: str(e.props.path),
    'vector-effect': 'non-scaling-stroke',
    'stroke-linejoin': 'round',
  })
  const update = shape(g, e, body, () => {
    const c = body.cloneNode() as SVGElement
    return c
  })
  return (p) => {
    attr(body, 'd', str(p.path))
    update(p)
  }
}

/** A group box: its label breaks the upper edge. */
export const frame: Renderer = (g, e) => {
  const box = make(g, 'rect', { width: e.w, height: e.h, rx: 4 })
  const t = make(g, 'text', { x: 16, y: 26, 'font-size': 17, 'font-weight': 650, fill: 'var(--c-ink)' })
  return (p) => {
    attr(box, 'fill', colour(p.fill))
    attr(box, 'stroke', colour(p.stroke))
    attr(box, 'stroke-width', num(p.strokeWidth, 1))
    text(t, str(p.caption))
  }
}

/** The titles of a tab set; the chosen one is open below. */
export const tabs: Renderer = (g, e) => {
  const body = make(g, 'rect', { y: 44, width: e.w, height: Math.max(0, e.h - 44), stroke: 'var(--c-line)' })
  const names = e.tabs ?? []
  const width = Math.min(180, e.w / Math.max(1, names.length))
  const all = names.map((_, i) => {
    const tab = make(g, 'g', {
      'data-tab': i + 1,
      transform: `translate(${i * width} 0)`,
      style: 'cursor:pointer',
    })
    const box = make(tab, 'path', {
      d: `M0 44V6a6 6 0 0 1 6 -6H${width - 10}a6 6 0 0 1 6 6V44`,
      stroke: 'var(--c-line)',
    })
    return {
      box,
      label: make(tab, 'text', {
        x: (width - 4) / 2,
        y: 23,
        'text-anchor': 'middle',
        'dominant-baseline': 'central',
        'font-size': 15,
        fill: 'var(--c-ink)',
      }),
    }
  })
  return (p) => {
    attr(body, 'fill', colour(p.fill))
    all.forEach(({ box, label }, i) => {
      const open = num(p.tab, 1) === i + 1
      attr(box, 'fill', open ? colour(p.fill) : 'var(--c-line)')
      attr(label, 'font-weight', open ? 650 : 400)
      text(label, str(p[`tab${i}`], names[i] ?? ''))
    })
  }
}

export const picture: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const holder = make(g, 'g')
  const empty = make(g, 'path', {
    d: `M0 0H${e.w}V${e.h}H0ZM0 ${e.h}L${e.w * 0.35} ${e.h * 0.45}L${e.w * 0.6} ${e.h * 0.75}L${e.w * 0.75} ${e.h * 0.6}L${e.w} ${e.h}`,
    fill: 'none',
    stroke: 'var(--c-quiet)',
    'stroke-dasharray': '4 4',
  })
  let shown = ''
  let last: Props = {}
  return (p) => {
    last = p
    const id = str(p.picture)
    show(empty, !id)
    if (shown !== id) {
      shown = id
      holder.replaceChildren()
      if (id) void fillPicture(holder, id, e, p.fit !== 'stretch', () => parts(holder, last))
    }
    parts(holder, p)
  }
}

/** Brings the bound parts of a drawing to their live values. */
function parts(holder: SVGGElement, p: Props) {
  for (const key in p) {
    const m = /^part:([\w.-]+)\/(\w+)$/.exec(key)
    const node = m && holder.querySelector<SVGElement>(`[data-part="${m[1]}"]`)
    if (!node || p[key] === null) continue
    if (m[2] === 'visible') show(node, p[key] !== false)
    else if (m[2] === 'opacity') node.style.opacity = String(num(p[key], 100) / 100)
    else node.style.setProperty(m[2]!, colour(p[key]))
  }
}

const pictures = new Map<string, Promise<{ type: string; data: string; w: number; h: number } | undefined>>()
/** Where pictures come from: the address of one by its id. */
export const pictureSource = { of: (id: string): string => id }

async function fillPicture(
  holder: SVGGElement,
  id: string,
  e: SceneElement,
  whole: boolean,
  done: () => void,
) {
  const from = pictureSource.of(id)
  if (!pictures.has(from))
    pictures.set(
      from,
      fetch(from)
        .then((r) => (r.ok ? r.json() : undefined))
        .catch(() => undefined),
    )
  const got = await pictures.get(from)
  if (!got) return
  if (got.type !== 'image/svg+xml') {
    make(holder, 'image', {
      width: e.w,
      height: e.h,
      href: `data:${got.type};base64,${got.data}`,
      preserveAspectRatio: whole ? 'xMidYMid meet' : 'none',
    })
    return
  }
  // The server has cleaned it; what is taken over is the drawing alone.
  const svg = new DOMParser().parseFromString(got.data, 'image/svg+xml').documentElement
  const inner = document.importNode(svg, true) as unknown as SVGSVGElement
  inner.setAttribute('width', String(e.w))
  inner.setAttribute('height', String(e.h))
  inner.setAttribute('preserveAspectRatio', whole ? 'xMidYMid meet' : 'none')
  for (const n of inner.querySelectorAll('[id]')) n.setAttribute('data-part', n.id)
  holder.appendChild(inner)
  done()
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

export const textElement: Renderer = (g, e) => {
  const draw = textBox(g, e)
  return (p) => draw(p, str(p.text))
}
