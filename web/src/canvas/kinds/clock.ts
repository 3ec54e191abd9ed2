import { type ElementKind, type Renderer } from '../element'
import { textBox } from '../words'

const ticking = new Set<() => void>()
setInterval(() => ticking.forEach((f) => f()), 1000)

const draw: Renderer = (g, e, around) => {
  const draw = textBox(g, e)
  let last: Parameters<ReturnType<Renderer>>[0] = e.props
  const tick = () => {
    if (!g.isConnected) return void ticking.delete(tick)
    const now = around.now()
    const time = now.toLocaleTimeString([], {
      hour: '2-digit',
      minute: '2-digit',
      second: '2-digit',
      hour12: false,
    })
    const date = now.toLocaleDateString([], { weekday: 'short', day: 'numeric', month: 'short' })
    draw(last, last.show === 'date' ? date : last.show === 'both' ? `${date} ${time}` : time)
  }
  return (p) => {
    last = p
    ticking.add(tick)
    queueMicrotask(tick)
  }
}

const kind: ElementKind = {
  name: 'clock',
  draw,
}
export default kind
