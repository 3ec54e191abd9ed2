import { make } from './svg'
import type { Renderer } from './element'

/** A place for what the page itself brings to life, such as a list of alarms; without that it stays an empty sheet. */
export const frame: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, rx: 4, fill: 'var(--c-sheet)', stroke: 'var(--c-line)' })
  const place = make(g, 'foreignObject', { width: e.w, height: e.h })
  const host = document.createElement('div')
  host.className = 'embed'
  host.style.height = '100%'
  place.appendChild(host)
  return () => {}
}
