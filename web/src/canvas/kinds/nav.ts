import { type ElementKind, type Renderer, str } from '../element'
import { make, textWithin } from '../svg'

const draw: Renderer = (g, e, around) => {
  const list = around.screens(str(e.props.area))
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

const kind: ElementKind = {
  name: 'nav',
  draw,
  press(item, hand, inside) {
    const screen = inside('screen')
    if (screen) hand.say(item, 'go', screen)
  },
}
export default kind
