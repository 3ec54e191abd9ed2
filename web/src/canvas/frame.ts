import { shallowRef, type Ref } from 'vue'
import { make } from './svg'
import type { Props, Renderer } from './element'

const shown = new WeakMap<Element, Ref<Props>>()
/** The properties of a frame's element as they are now, by what a page is mounted in. */
export const shownIn = (host: Element): Ref<Props> => shown.get(host) ?? shallowRef({})

/** A place for what the page itself brings to life, such as a list of alarms; without that it stays an empty sheet. */
export const frame: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, rx: 4, fill: 'var(--c-sheet)', stroke: 'var(--c-line)' })
  const place = make(g, 'foreignObject', { width: e.w, height: e.h })
  const host = document.createElement('div')
  host.className = 'embed'
  host.style.height = '100%'
  place.appendChild(host)
  const now = shallowRef<Props>(e.props)
  shown.set(host, now)
  // The stage changes its properties in place.
  return (p) => (now.value = { ...p })
}
