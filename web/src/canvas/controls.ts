import type { SceneElement } from '../live/live'
import { colour } from '../theme'
import { num, share, str, type Renderer } from './element'
import { quietFill } from './shapes'
import { attr, make, show, text, textWithin } from './svg'

const mono = 'var(--mono)'

/** Two targets at the right end of an entry, one step up and one down. */
function spinner(g: SVGGElement, e: SceneElement) {
  const half = (e.h - 20) / 2
  const all = [-1, 1].map((by, i) => {
    const b = make(g, 'g', { 'data-step': -by, transform: `translate(${e.w - 44} ${20 + i * half})` })
    make(b, 'rect', { width: 44, height: half, fill: 'transparent', stroke: 'var(--c-ink)' })
    return make(b, 'path', {
      d: i ? `M15 ${half / 2 - 3}l7 7 7-7` : `M15 ${half / 2 + 3}l7-7 7 7`,
      fill: 'none',
      'stroke-width': 2,
    })
  })
  return (on: boolean) => all.forEach((a) => attr(a, 'stroke', on ? 'var(--c-ink)' : 'var(--c-quiet)'))
}

export const entry: Renderer = (g, e) => {
  const steps = e.props.spinner === true && e.kind === 'entry' ? spinner(g, e) : undefined
  const caption = make(g, 'text', { 'font-size': 15, fill: quietFill, y: 12 })
  const box = make(g, 'rect', {
    y: 20,
    width: e.w,
    height: Math.max(0, e.h - 20),
    rx: 4,
    'stroke-width': 1.5,
    stroke: 'var(--c-ink)',
  })
  const value = make(g, 'text', {
    x: 14,
    y: 20 + (e.h - 20) / 2,
    'font-family': mono,
    'font-size': 20,
    'font-weight': 600,
    'dominant-baseline': 'central',
  })
  // Three lines: this takes an entry.
  const mark = make(g, 'path', {
    d: `M${e.w - 26} ${20 + (e.h - 20) / 2 - 6}h14m-14 6h10m-10 6h14`,
    stroke: 'var(--c-quiet)',
    'stroke-width': 1.5,
    fill: 'none',
  })
  return (p, s) => {
    const on = p.enabled !== false
    textWithin(caption, str(p.caption), e.w, 15)
    text(value, s.level === 'bad' ? '—' : str(p.text, '—'))
    attr(value, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
    attr(value, 'fill', on ? 'var(--c-ink)' : 'var(--c-quiet)')
    attr(box, 'fill', on ? 'var(--c-sheet)' : 'transparent')
    attr(box, 'stroke', on ? 'var(--c-ink)' : 'var(--c-quiet)')
    show(mark, on && e.w > 90 && !steps)
    steps?.(on)
  }
}

export const button: Renderer = (g, e) => {
  const box = make(g, 'rect', { width: e.w, height: e.h, rx: 4, 'stroke-width': 1.75 })
  const label = make(g, 'text', {
    x: e.w / 2,
    y: e.h / 2,
    'font-size': 16,
    'font-weight': 650,
    'text-anchor': 'middle',
    'dominant-baseline': 'central',
  })
  // A button to be held has a broad foot, which fills while it is held.
  const foot = make(g, 'rect', { x: 8, y: e.h - 13, width: Math.max(0, e.w - 16), height: 7, rx: 1.5 })
  const arrow = make(g, 'path', {
    d: `M${e.w - 22} ${e.h / 2 - 6}l6 6-6 6`,
    fill: 'none',
    'stroke-width': 1.75,
  })
  const key = make(g, 'text', {
    x: e.w - 6,
    y: 11,
    'font-size': 11,
    'text-anchor': 'end',
    'dominant-baseline': 'central',
  })
  return (p, s) => {
    const on = p.enabled !== false
    const hold = p.action === 'hold'
    const pressed = (s.held && !hold) || (p.action === 'toggle' && p.on === true)
    const ink = !on ? 'var(--c-quiet)' : pressed ? 'var(--c-on-spruce)' : 'var(--c-ink)'
    attr(
      box,
      'fill',
      !on
        ? 'transparent'
        : pressed
          ? 'var(--c-spruce)'
          : hold && s.held
            ? 'var(--c-tint)'
            : colour(p.fill ?? 'sheet'),
    )
    attr(box, 'stroke', !on ? 'var(--c-quiet)' : hold && s.held ? 'var(--c-spruce)' : 'var(--c-ink)')
    attr(box, 'stroke-width', hold && s.held ? 3 : 1.75)
    attr(box, 'stroke-dasharray', on ? 'none' : '5 4')
    textWithin(label, str(p.caption), e.w - 20, 16)
    attr(label, 'fill', ink)
    text(key, p.key === 'none' ? '' : str(p.key))
    attr(key, 'fill', ink)
    show(foot, hold)
    attr(foot, 'fill', hold && s.held ? 'var(--c-spruce)' : 'var(--c-line)')
    attr(label, 'y', e.h / 2 - (hold ? 4 : 0))
    show(arrow, (p.action === 'open' || p.action === 'face') && e.w > 120)
    attr(arrow, 'stroke', ink)
  }
}

/** A switch: a slot whose peg lies at the side that is on, with the state in words. */
export const toggle: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const w = Math.min(64, e.w * 0.5)
  const h = Math.min(32, e.h - 8)
  const y = (e.h - h) / 2
  const slot = make(g, 'rect', { y, width: w, height: h, rx: 4, 'stroke-width': 1.75 })
  const peg = make(g, 'rect', {
    y: y + 4,
    width: w / 2 - 5,
    height: h - 8,
    rx: 2,
    'stroke-width': 1.5,
    stroke: 'var(--c-ink)',
  })
  const label = make(g, 'text', {
    x: w + 12,
    y: e.h / 2 - 8,
    'font-size': 15,
    'dominant-baseline': 'central',
    fill: 'var(--c-ink)',
  })
  const state = make(g, 'text', {
    x: w + 12,
    y: e.h / 2 + 10,
    'font-size': 14,
    'dominant-baseline': 'central',
    fill: quietFill,
  })
  return (p, s) => {
    const enabled = p.enabled !== false
    const on = p.on === true
    const known = s.level !== 'bad' && typeof p.on === 'boolean'
    attr(slot, 'fill', !enabled ? 'transparent' : on ? 'var(--c-spruce)' : 'var(--c-sheet)')
    attr(slot, 'stroke', enabled ? 'var(--c-ink)' : 'var(--c-quiet)')
    attr(slot, 'stroke-dasharray', enabled ? 'none' : '5 4')
    show(peg, known)
    attr(peg, 'x', on ? w / 2 + 1 : 4)
    attr(peg, 'fill', on ? 'var(--c-on-spruce)' : 'var(--c-paper)')
    const caption = str(p.caption)
    textWithin(label, caption, e.w - w - 12, 15)
    attr(state, 'y', caption ? e.h / 2 + 10 : e.h / 2)
    textWithin(state, known ? str(p.text) : '—', e.w - w - 12, 14)
  }
}

/** A selector: the chosen state with a mark that it opens, or all of them in a row. */
export const selector: Renderer = (g, e) => {
  const caption = make(g, 'text', { 'font-size': 15, fill: quietFill, y: 12 })
  const states = e.tag?.states ?? []
  const row = e.props.look === 'row' && states.length > 0
  const h = Math.max(0, e.h - 20)
  const box = make(g, 'rect', { y: 20, width: e.w, height: h, rx: 4, 'stroke-width': 1.5 })
  const chosen = make(g, 'text', {
    x: 14,
    y: 20 + h / 2,
    'font-size': 18,
    'font-weight': 600,
    'dominant-baseline': 'central',
  })
  const mark = make(g, 'path', {
    d: `M${e.w - 28} ${20 + h / 2 - 4}l8 8 8-8`,
    fill: 'none',
    stroke: 'var(--c-quiet)',
    'stroke-width': 2,
  })
  const w = e.w / Math.max(1, states.length)
  const cells = row
    ? states.map((s, i) => {
        const c = make(g, 'g', { 'data-choice': String(s.value), transform: `translate(${i * w} 20)` })
        const r = make(c, 'rect', { width: w, height: h, stroke: 'var(--c-ink)', rx: 3 })
        const t = make(c, 'text', {
          x: w / 2,
          y: h / 2,
          'text-anchor': 'middle',
          'dominant-baseline': 'central',
          'font-size': 15,
        })
        textWithin(t, s.text, w - 8, 15)
        return { r, t, v: s.value }
      })
    : []
  return (p, s) => {
    const on = p.enabled !== false
    textWithin(caption, str(p.caption), e.w, 15)
    show(chosen, !row)
    show(mark, !row && on)
    textWithin(chosen, s.level === 'bad' ? '—' : str(p.text, '—'), e.w - 50, 18)
    attr(chosen, 'fill', on ? 'var(--c-ink)' : 'var(--c-quiet)')
    attr(chosen, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
    attr(box, 'fill', on ? 'var(--c-sheet)' : 'transparent')
    attr(box, 'stroke', on ? 'var(--c-ink)' : 'var(--c-quiet)')
    for (const c of cells) {
      const here = s.level !== 'bad' && p.value === c.v
      attr(c.r, 'fill', !on ? 'transparent' : here ? 'var(--c-spruce)' : 'var(--c-sheet)')
      attr(c.t, 'fill', here && on ? 'var(--c-on-spruce)' : on ? 'var(--c-ink)' : 'var(--c-quiet)')
      attr(c.t, 'font-weight', here ? 650 : 400)
    }
  }
}

/** The ends of a slider: those of its tag, or what it sets. */
export function sliderEnds(e: SceneElement): [number, number] {
  return [num(e.props.low, num(e.tag?.from)), num(e.props.high, num(e.tag?.to, 100))]
}
/** Where the groove of a slider lies. */
export const GROOVE = 14

export const slider: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const caption = make(g, 'text', { 'font-size': 15, fill: quietFill, y: 13 })
  const value = make(g, 'text', {
    x: e.w,
    y: 14,
    'font-size': 16,
    'font-weight': 650,
    'font-family': mono,
    'text-anchor': 'end',
    fill: 'var(--c-ink)',
  })
  const y = e.h - 20
  const wide = Math.max(1, e.w - 2 * GROOVE)
  make(g, 'rect', { x: GROOVE, y: y - 3, width: wide, height: 6, fill: 'var(--c-track)' })
  const past = make(g, 'rect', { x: GROOVE, y: y - 3, height: 6, fill: 'var(--c-quiet)' })
  const peg = make(g, 'rect', { y: y - 14, width: 20, height: 28, rx: 3, 'stroke-width': 1.75 })
  return (p, s) => {
    const on = p.enabled !== false
    const [low, high] = sliderEnds(e)
    const known = s.level !== 'bad' && typeof p.value === 'number'
    const v = num(p.sliding, num(p.value))
    const at = GROOVE + share(v, low, high) * wide
    textWithin(caption, str(p.caption), e.w * 0.6, 15)
    text(value, known ? str(p.slidingText) || str(p.text) : '—')
    attr(value, 'text-decoration', s.level === 'uncertain' ? 'underline dotted' : 'none')
    show(peg, known)
    show(past, known)
    attr(past, 'width', Math.max(0, at - GROOVE))
    attr(peg, 'x', at - 10)
    attr(peg, 'fill', on ? 'var(--c-sheet)' : 'transparent')
    attr(peg, 'stroke', on ? 'var(--c-ink)' : 'var(--c-quiet)')
  }
}

/** Screens in the navigation, as the Desk gives them. */
export const screensIn = { of: (_area: string): { id: string; name: string }[] => [] }

export const nav: Renderer = (g, e) => {
  const list = screensIn.of(str(e.props.area))
  const w = e.w / Math.max(1, list.length)
  if (!list.length)
    make(g, 'rect', {
      width: e.w,
      height: e.h,
      fill: 'transparent',
      stroke: 'var(--c-quiet)',
      'stroke-dasharray': '4 4',
    })
  for (const [i, s] of list.entries()) {
    const b = make(g, 'g', {
      'data-screen': s.id,
      transform: `translate(${i * w} 0)`,
      style: 'cursor:pointer',
    })
    make(b, 'rect', { width: w - 6, height: e.h, rx: 4, fill: 'var(--c-sheet)', stroke: 'var(--c-ink)' })
    textWithin(
      make(b, 'text', {
        x: (w - 6) / 2,
        y: e.h / 2,
        'text-anchor': 'middle',
        'dominant-baseline': 'central',
        'font-size': 15,
        'font-weight': 600,
        fill: 'var(--c-ink)',
      }),
      s.name,
      w - 16,
      15,
    )
  }
  return () => {}
}
