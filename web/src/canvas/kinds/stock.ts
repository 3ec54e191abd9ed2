import { type ElementKind, num } from '../element'
import { attr, make } from '../svg'
import { type Drawing, drawn, type Part } from '../symbol'

// The stock of equipment, drawn in one style: two-pixel ink, rounded joints,
// flat faces. Running is filled ink, stopped is hollow, half open is half
// filled; a fault carries its tab, hand mode its mark. Each drawing is a list
// of parts on a field of its own size; lines keep their width at any size.

const circle = (x: number, y: number, r: number) =>
  `M${x - r} ${y}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0Z`

const box = (x: number, y: number, w: number, h: number) => `M${x} ${y}h${w}v${h}h${-w}Z`

/** A wheel with teeth. */
function teeth(x: number, y: number, r: number, n: number): string {
  let d = ''
  for (let i = 0; i < n; i++) {
    const a = (i / n) * 2 * Math.PI
    const b = ((i + 0.65) / n) * 2 * Math.PI
    d += `${i ? 'L' : 'M'}${(x + Math.cos(a) * r * 0.82).toFixed(1)} ${(y + Math.sin(a) * r * 0.82).toFixed(1)}L${(x + Math.cos(b) * r).toFixed(1)} ${(y + Math.sin(b) * r).toFixed(1)}`
  }
  return d + 'Z'
}

const bow: Part[] = [
  ['first', 'M4 7L28 20L4 33Z'],
  ['second', 'M52 7L28 20L52 33Z'],
]

/** Something that turns about a point by a share of a quarter. */
const turning =
  (d: string, x: number, y: number): Drawing['moves'] =>
  (g) => {
    const flap = make(g, 'path', {
      d,
      stroke: 'var(--c-ink)',
      'stroke-width': 3.5,
      'stroke-linecap': 'round',
      fill: 'none',
      'vector-effect': 'non-scaling-stroke',
    })
    return (p) =>
      attr(flap, 'transform', `rotate(${90 - Math.max(0, Math.min(100, num(p.position))) * 0.9} ${x} ${y})`)
  }

/** Something that slides by a share of a way. */
const sliding =
  (d: string, dx: number, dy: number, of = 'position', top = 100): Drawing['moves'] =>
  (g) => {
    const piece = make(g, 'path', {
      d,
      stroke: 'var(--c-ink)',
      'stroke-width': 2,
      fill: 'var(--c-sheet)',
      'vector-effect': 'non-scaling-stroke',
    })
    return (p) => {
      const v = p[of] === true ? 1 : Math.max(0, Math.min(1, num(p[of]) / top))
      attr(piece, 'transform', `translate(${dx * v} ${dy * v})`)
    }
  }

const contact =
  (y1: number, y2: number): Drawing['moves'] =>
  (g) => {
    const arm = make(g, 'path', {
      stroke: 'var(--c-ink)',
      'stroke-width': 3.5,
      'stroke-linecap': 'round',
      fill: 'none',
      'vector-effect': 'non-scaling-stroke',
    })
    return (p, s) =>
      attr(
        arm,
        'd',
        s.level === 'bad' ? '' : p.closed === true ? `M20 ${y2}V${y1}` : `M20 ${y2}L34 ${y1 + 4}`,
      )
  }

const drawings: Record<string, Drawing> = {
  motor: {
    w: 56,
    h: 56,
    parts: [
      ['body', circle(28, 28, 25)],
      ['over', 'M18 38V19L28 31L38 19V38'],
    ],
  },
  pump: {
    w: 56,
    h: 56,
    parts: [
      ['body', circle(28, 28, 25)],
      ['over', 'M13 8.500L53 28L13 47.500'],
    ],
  },
  gearpump: {
    w: 56,
    h: 56,
    parts: [
      ['body', circle(28, 28, 25)],
      ['over', teeth(28, 18, 11, 8)],
      ['over', teeth(28, 39, 11, 8)],
    ],
  },
  axialfan: {
    w: 56,
    h: 56,
    parts: [
      ['body', box(3, 6, 50, 44)],
      ['over', 'M28 28C15 22 18 10 28 10C38 10 41 22 28 28C41 34 38 46 28 46C18 46 15 34 28 28Z'],
      ['over', circle(28, 28, 3)],
    ],
  },
  blower: {
    w: 64,
    h: 56,
    parts: [
      ['body', 'M28 7H62V21H49.500A22 22 0 1 1 28 7Z'],
      ['over', circle(28, 30, 9)],
      ['over', 'M28 14V21M28 39V46M12 30H19M37 30H44'],
    ],
  },
  compressor: {
    w: 56,
    h: 56,
    parts: [
      ['body', circle(28, 28, 25)],
      ['over', 'M7 15L51 22M7 41L51 34'],
    ],
  },
  mixer: {
    w: 56,
    h: 72,
    parts: [
      ['body', box(15, 2, 26, 20)],
      ['line', 'M28 22V66'],
      ['thick', 'M10 56L46 68M46 56L10 68'],
    ],
  },
  press: {
    w: 64,
    h: 64,
    parts: [
      ['open', 'M5 3H59V61H49V13H15V61H5Z'],
      ['body', box(21, 13, 22, 22)],
      ['solid', box(16, 35, 32, 6)],
      ['metal', box(16, 50, 32, 11)],
    ],
  },
  saw: {
    w: 72,
    h: 56,
    parts: [
      ['body', teeth(36, 28, 25, 14)],
      ['over', circle(36, 28, 4)],
      ['solid', box(0, 36, 72, 5)],
      ['line', 'M10 41V56M62 41V56'],
    ],
  },
  bandsaw: {
    w: 56,
    h: 80,
    parts: [
      ['body', circle(28, 17, 14)],
      ['body', circle(28, 63, 14)],
      ['line', 'M14 17V63M42 17V63'],
      ['solid', box(2, 38, 52, 5)],
      ['over', circle(28, 17, 3)],
      ['over', circle(28, 63, 3)],
    ],
  },
  planer: {
    w: 80,
    h: 48,
    parts: [
      ['open', 'M8 3H72V31H8Z'],
      ['body', teeth(40, 18, 12, 6)],
      ['metal', box(0, 35, 80, 6)],
      ['line', 'M12 41V48M68 41V48'],
    ],
  },
  belt: {
    w: 160,
    h: 40,
    parts: [
      ['body', 'M15 7H145A13 13 0 0 1 145 33H15A13 13 0 0 1 15 7Z'],
      ['over', circle(15, 20, 6)],
      ['over', circle(145, 20, 6)],
      ['over', 'M58 20H100M92 13L100 20L92 27'],
    ],
  },
  rollers: {
    w: 160,
    h: 40,
    parts: [
      ['solid', box(0, 7, 160, 3)],
      ...[12, 35, 58, 81, 104, 127, 149].map((x): Part => ['body', circle(x, 20, 9)]),
      ['line', 'M0 31H160'],
    ],
  },
  screw: {
    w: 160,
    h: 40,
    parts: [
      ['body', box(2, 6, 156, 28)],
      ['over', 'M2 20H158M10 33L26 7M36 33L52 7M62 33L78 7M88 33L104 7M114 33L130 7M140 33L154 10'],
    ],
  },
  elevator: {
    w: 48,
    h: 128,
    parts: [
      ['body', 'M6 24A18 18 0 0 1 42 24V104A18 18 0 0 1 6 104Z'],
      ['over', circle(24, 24, 7)],
      ['over', circle(24, 104, 7)],
      ['over', 'M11 42H19V49M11 58H19V65M11 74H19V81M37 49V42H29M37 65V58H29M37 81V74H29'],
    ],
  },
  drive: {
    w: 56,
    h: 56,
    parts: [
      ['body', box(4, 4, 48, 48)],
      ['over', 'M4 52L52 4M11 19C14 11 18 11 21 19S28 27 31 19M30 40H46M30 45H46'],
    ],
  },
  valve: { w: 56, h: 40, parts: [...bow, ['line', 'M28 20V4M20 4H36']] },
  valve3: {
    w: 56,
    h: 48,
    parts: [
      ['first', 'M4 5L28 18L4 31Z'],
      ['second', 'M52 5L28 18L52 31Z'],
      ['open', 'M15 46L28 18L41 46Z'],
    ],
  },
  controlvalve: {
    w: 56,
    h: 56,
    parts: [
      ['first', 'M4 25L28 38L4 51Z'],
      ['second', 'M52 25L28 38L52 51Z'],
      ['line', 'M28 38V16'],
      ['open', 'M12 16A16 13 0 0 1 44 16Z'],
    ],
  },
  butterfly: {
    w: 56,
    h: 40,
    parts: [
      ['thick', 'M6 4V36M50 4V36'],
      ['solid', circle(28, 20, 4)],
    ],
    moves: turning('M12 20H44', 28, 20),
  },
  slide: {
    w: 56,
    h: 48,
    parts: [
      ['open', box(4, 16, 48, 28)],
      ['line', 'M28 16V2'],
    ],
    moves: sliding(box(20, 16, 16, 28), 0, -14),
  },
  door: {
    w: 72,
    h: 88,
    parts: [['metal', 'M3 2H69V88H61V10H11V88H3Z']],
    on: 'open',
    moves: (g) => {
      const leaf = make(g, 'path', {
        stroke: 'var(--c-ink)',
        'stroke-width': 2,
        'stroke-linejoin': 'round',
        'vector-effect': 'non-scaling-stroke',
      })
      return (p, s) => {
        attr(leaf, 'd', p.open === true ? 'M11 10L27 16V82L11 88Z' : 'M11 10H61V88H11ZM52 48V54')
        attr(leaf, 'fill', p.open === true && s.level !== 'bad' ? 'var(--c-ink)' : 'var(--c-sheet)')
      }
    },
  },
  gate: {
    w: 96,
    h: 64,
    parts: [
      ['solid', box(4, 10, 8, 52)],
      ['solid', box(84, 10, 8, 52)],
    ],
    on: 'open',
    moves: (g) => {
      const bar = make(g, 'path', {
        d: 'M10 22L86 22L86 29L10 29ZM30 29V60M50 29V60M70 29V60M10 46H86',
        stroke: 'var(--c-ink)',
        'stroke-width': 2,
        fill: 'none',
        'vector-effect': 'non-scaling-stroke',
      })
      return (p) => attr(bar, 'transform', p.open === true ? 'rotate(-52 10 26) scale(.92)' : '')
    },
  },
  tank: { w: 96, h: 120, parts: [['line', 'M4 4V116H92V4']], vessel: 'M4 4V116H92V4Z' },
  closedtank: {
    w: 96,
    h: 128,
    parts: [['line', 'M4 20C4 8 24 3 48 3S92 8 92 20V108C92 120 72 125 48 125S4 120 4 108Z']],
    vessel: 'M4 20C4 8 24 3 48 3S92 8 92 20V108C92 120 72 125 48 125S4 120 4 108Z',
  },
  conetank: {
    w: 96,
    h: 144,
    parts: [
      ['line', 'M4 4H92V92L56 138H40L4 92Z'],
      ['solid', box(40, 138, 16, 5)],
    ],
    vessel: 'M4 4H92V92L56 138H40L4 92Z',
  },
  silo: {
    w: 96,
    h: 160,
    parts: [
      ['line', 'M4 26L48 3L92 26V112L56 146H40L4 112Z'],
      ['line', 'M4 112V158M92 112V158'],
      ['line', 'M4 26H92'],
    ],
    vessel: 'M4 26H92V112L56 146H40L4 112Z',
  },
  hopper: { w: 96, h: 88, parts: [['line', 'M3 3H93L60 70V85H36V70Z']], vessel: 'M3 3H93L60 70V85H36V70Z' },
  exchanger: {
    w: 64,
    h: 64,
    parts: [
      ['body', circle(32, 32, 28)],
      ['over', 'M4 32H17L24 18L38 46L46 32H60'],
    ],
  },
  filter: {
    w: 56,
    h: 56,
    parts: [
      ['body', box(5, 5, 46, 46)],
      ['over', 'M5 28H12L18 14L26 42L34 14L42 42L46 28H51'],
    ],
  },
  cyclone: {
    w: 64,
    h: 104,
    parts: [
      ['body', 'M8 14H56V46L38 92H26L8 46Z'],
      ['over', 'M12 26C26 38 44 22 54 34M16 46C28 56 40 42 50 50M22 64C30 71 36 60 43 66'],
      ['open', box(25, 2, 14, 12)],
      ['line', 'M32 92V103'],
    ],
  },
  chimney: {
    w: 40,
    h: 120,
    parts: [
      ['open', 'M12 26H28L34 118H6Z'],
      ['line', 'M11 48H29M9 72H31M8 96H32'],
      ['seen', 'M15 20C8 14 20 12 14 4M24 20C18 14 30 11 25 3'],
    ],
  },
  breaker: {
    w: 40,
    h: 64,
    parts: [
      ['open', box(5, 14, 30, 36)],
      ['line', 'M20 2V20M20 44V62'],
      ['solid', circle(20, 20, 2.5)],
    ],
    moves: contact(20, 44),
  },
  isolator: {
    w: 40,
    h: 64,
    parts: [
      ['line', 'M20 2V18M20 46V62M12 18H28'],
      ['solid', circle(20, 46, 2.5)],
    ],
    moves: contact(18, 46),
  },
  transformer: {
    w: 48,
    h: 72,
    parts: [
      ['body', circle(24, 25, 17)],
      ['line', circle(24, 47, 17)],
      ['line', 'M24 8V1M24 64V71'],
    ],
  },
  meter: {
    w: 56,
    h: 56,
    parts: [
      ['body', box(3, 8, 50, 40)],
      ['over', 'M12 38A17 17 0 0 1 44 38M28 38L38 22'],
      ['over', circle(28, 38, 2)],
    ],
  },
  generator: {
    w: 56,
    h: 56,
    parts: [
      ['body', circle(28, 28, 25)],
      ['over', 'M38 20A12 12 0 1 0 40 33V28H31'],
    ],
  },
  battery: {
    w: 72,
    h: 48,
    parts: [
      ['line', box(3, 8, 62, 36)],
      ['solid', box(65, 19, 5, 14)],
      ['line', 'M13 3V8M53 3V8'],
    ],
    vessel: box(3, 8, 62, 36),
  },
  lift: {
    w: 96,
    h: 64,
    parts: [['metal', box(2, 56, 92, 6)]],
    moves: (g) => {
      const legs = make(g, 'path', {
        stroke: 'var(--c-ink)',
        'stroke-width': 3,
        fill: 'none',
        'vector-effect': 'non-scaling-stroke',
      })
      const top = make(g, 'path', {
        stroke: 'var(--c-ink)',
        'stroke-width': 2,
        'vector-effect': 'non-scaling-stroke',
      })
      return (p, s) => {
        const y = 48 - Math.max(0, Math.min(100, num(p.position))) * 0.4
        attr(legs, 'd', `M14 56L82 ${y + 8}M82 56L14 ${y + 8}`)
        attr(top, 'd', box(2, y, 92, 8))
        attr(top, 'fill', p.running === true && s.level !== 'bad' ? 'var(--c-ink)' : 'var(--c-sheet)')
      }
    },
  },
  tee: { w: 40, h: 40, parts: [['thick', 'M0 12H40M0 28H12V40M40 28H28V40']] },
  elbow: { w: 40, h: 40, parts: [['thick', 'M0 12H16A12 12 0 0 1 28 24V40M0 28H10A2 2 0 0 1 12 30V40']] },
  cross: { w: 40, h: 40, parts: [['thick', 'M0 12H12V0M28 0V12H40M40 28H28V40M12 40V28H0']] },
  reducer: { w: 40, h: 40, parts: [['body', 'M4 6L36 14V26L4 34Z']] },
  flange: {
    w: 40,
    h: 40,
    parts: [
      ['solid', box(14, 4, 4, 32)],
      ['solid', box(22, 4, 4, 32)],
      ['line', 'M0 12H14M0 28H14M26 12H40M26 28H40'],
    ],
  },
  cap: {
    w: 40,
    h: 40,
    parts: [
      ['thick', 'M0 12H22M0 28H22'],
      ['body', 'M22 8H26A12 12 0 0 1 26 32H22Z'],
    ],
  },
}

const kinds: ElementKind[] = Object.entries(drawings).map(([name, d]) => ({ name, draw: drawn(d) }))
export default kinds
