import { type ElementKind, type Hand, type Item, num, type Renderer, share, str } from '../element'
import { attr, make, show, text, textWithin } from '../svg'
import { mono, quietFill } from '../words'
import { type SceneElement } from '../../live/live'

/** The ends of a slider: those of its tag, or what it sets. */
function sliderEnds(e: SceneElement): [number, number] {
  return [num(e.props.low, num(e.tag?.from)), num(e.props.high, num(e.tag?.to, 100))]
}

/** Where the groove of a slider lies. */
const GROOVE = 14

const draw: Renderer = (g, e) => {
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

/** A slider shows where it is while it is drawn, and sends when it is let go. */
function wire(item: Item, hand: Hand) {
  const { element: e, node } = item
  const [low, high] = sliderEnds(e)
  const step = e.tag?.step || num(e.props.step) || (high - low) / 100
  const decimals = Math.max(e.tag?.decimals ?? (step % 1 ? 1 : 0), 0)
  const snap = (v: number) => Math.max(low, Math.min(high, low + Math.round((v - low) / step) * step))
  let at: number | undefined
  const showAt = (v: number | undefined) => {
    at = v
    hand.pose(e.id, 'sliding', v)
    hand.pose(e.id, 'slidingText', v === undefined ? undefined : v.toFixed(decimals))
  }
  const follow = (ev: PointerEvent) => {
    const r = node.getBoundingClientRect()
    const x = ((ev.clientX - r.left) / r.width) * e.w
    showAt(snap(low + ((x - GROOVE) / (e.w - 2 * GROOVE)) * (high - low)))
  }
  node.style.touchAction = 'none'
  node.addEventListener('pointerdown', (ev) => {
    if (ev.button !== 0 || item.shown.enabled === false || item.state.level === 'bad') return
    node.setPointerCapture(ev.pointerId)
    follow(ev)
  })
  node.addEventListener(
    'pointermove',
    (ev) => at !== undefined && node.hasPointerCapture(ev.pointerId) && follow(ev),
  )
  const end = (send: boolean) => {
    if (at === undefined) return
    const v = at
    showAt(undefined)
    if (send) hand.say(item, 'send', v.toFixed(decimals))
  }
  node.addEventListener('pointerup', () => end(true))
  node.addEventListener('pointercancel', () => end(false))
  node.addEventListener('keydown', (ev) => {
    const by =
      ev.key === 'ArrowRight' || ev.key === 'ArrowUp'
        ? 1
        : ev.key === 'ArrowLeft' || ev.key === 'ArrowDown'
          ? -1
          : 0
    if (by) {
      ev.preventDefault()
      ev.stopPropagation()
      showAt(snap((at ?? num(item.shown.value)) + by * step))
    } else if (ev.key === 'Enter') end(true)
    else if (ev.key === 'Escape') end(false)
  })
  node.addEventListener('blur', () => end(false))
}

const kind: ElementKind = {
  name: 'slider',
  draw,
  speaks: true,
  role: 'slider',
  stays: () => true,
  wire,
}
export default kind
