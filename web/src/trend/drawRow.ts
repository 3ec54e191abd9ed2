import type { Line } from './pens'
import type { Range } from './range'
import type { Stretch } from './rows'

/** What a stretch of a row looks like. */
export type Look = 'on' | 'off' | 'state' | 'many' | 'bad'

/** How a stretch is drawn; an inverted row is shaded while its BOOL is off. */
export function lookOf(l: Line, s: Stretch, inverted: boolean): Look {
  if (s.bad) return 'bad'
  if (s.edges) return 'many'
  if (!l.row!.bool) return 'state'
  return (s.value === 1) !== inverted ? 'on' : 'off'
}

/** Colours and font of the style sheet, as a drawing takes them. */
export interface Paints {
  ink: string
  quiet: string
  tint: string
  line: string
  font: string
}

const ROOM = 4 // pixels above and below

/** Draws the stretches of one row, from edge to edge of the canvas. */
export function drawRow(canvas: HTMLCanvasElement, l: Line, range: Range, inverted: boolean, p: Paints) {
  const scale = window.devicePixelRatio || 1
  const [w, h] = [canvas.clientWidth, canvas.clientHeight]
  if (!w || !h) return
  if (canvas.width !== Math.round(w * scale) || canvas.height !== Math.round(h * scale)) {
    canvas.width = Math.round(w * scale)
    canvas.height = Math.round(h * scale)
  }
  const c = canvas.getContext('2d')!
  c.setTransform(scale, 0, 0, scale, 0, 0)
  c.clearRect(0, 0, w, h)
  c.font = p.font
  c.textBaseline = 'middle'
  const x = (at: number) => ((at - range.from) / (range.to - range.from)) * w
  for (const s of l.row!.stretches) {
    const from = Math.max(-2, x(s.from))
    const to = Math.min(w + 2, x(s.to))
    if (to < 0 || from > w) continue
    draw[lookOf(l, s, inverted)](c, from, Math.max(to, from + 1), h, p, s)
  }
}

type Draw = (c: CanvasRenderingContext2D, from: number, to: number, h: number, p: Paints, s: Stretch) => void

const draw: Record<Look, Draw> = {
  on(c, from, to, h, p) {
    c.fillStyle = p.tint
    c.fillRect(from, ROOM, to - from, h - 2 * ROOM)
    stroke(c, p.ink, [from, h - ROOM, from, ROOM, to, ROOM, to, h - ROOM])
  },
  off: (c, from, to, h, p) => stroke(c, p.ink, [from, h - ROOM, to, h - ROOM]),
  state(c, from, to, h, p, s) {
    c.fillStyle = p.tint
    c.fillRect(from, ROOM, to - from, h - 2 * ROOM)
    stroke(c, p.quiet, [from, ROOM, from, h - ROOM])
    if (to - from < 12) return
    c.save()
    c.beginPath()
    c.rect(from, 0, to - from - 2, h)
    c.clip()
    c.fillStyle = p.ink
    c.fillText(s.text, Math.max(0, from) + 5, h / 2 + 1)
    c.restore()
  },
  many(c, from, to, h, p) {
    c.fillStyle = p.tint
    c.fillRect(from, ROOM, to - from, h - 2 * ROOM)
    c.fillStyle = p.ink
    for (let at = from; at < to; at += 3) c.fillRect(at, ROOM, 1, h - 2 * ROOM)
  },
  bad(c, from, to, h, p) {
    c.save()
    c.beginPath()
    c.rect(from, ROOM, to - from, h - 2 * ROOM)
    c.clip()
    for (let at = from - h; at < to; at += 6) stroke(c, p.line, [at, h, at + h, 0])
    c.restore()
  },
}

function stroke(c: CanvasRenderingContext2D, colour: string, points: number[]) {
  c.strokeStyle = colour
  c.lineWidth = 1.5
  c.beginPath()
  for (let i = 0; i < points.length; i += 2) c.lineTo(points[i]!, points[i + 1]!)
  c.stroke()
}
