import type { Renderer } from './element'
import { make } from './svg'

/** An empty field: what lies in it is drawn by the stage. */
export const field: Renderer = (g, e) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  return () => {}
}
