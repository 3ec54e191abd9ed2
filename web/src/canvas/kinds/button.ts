import { colour } from '../../theme'
import { type ElementKind, type Hand, type Item, presses, type Renderer, str } from '../element'
import { attr, make, show, text, textWithin } from '../svg'
import { type By } from '../../live/hand'

const draw: Renderer = (g, e) => {
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

/** A held button tells what presses it; how that ends is noticed at the window. */
function wire(item: Item, hand: Hand) {
  const node = item.node
  const hold = (by: By) => hand.hold(item, by)
  node.style.touchAction = 'none'
  node.addEventListener('pointerdown', (ev) => {
    if (ev.button !== 0 || !ev.isPrimary) return
    node.setPointerCapture(ev.pointerId)
    hold({ pointer: ev.pointerId })
  })
  node.addEventListener('keydown', (ev) => {
    if (!presses(ev) || ev.repeat) return
    ev.preventDefault()
    hold({ key: ev.key, focus: true })
  })
}

const kind: ElementKind = {
  name: 'button',
  draw,
  silent: true,
  sample: { props: { caption: 'OK' } },
  press: (item, hand) => hand.say(item, 'press'),
  stays: (e) => e.props.action === 'hold',
  wire,
}
export default kind
