import type { Element } from '../../api/client'
import { type ElementKind } from '../element'
import { labelled } from '../labelled'

const draw = labelled(false)

const kind: ElementKind = {
  name: 'readout',
  draw,
  speaks: true,
  reads: true,
}
export default kind

/** A value beside its label, at the right end of its place. */
export const readoutOf = (tag: string, x: number, y: number, w: number): Element => ({
  kind: kind.name,
  x,
  y,
  w,
  h: 24,
  z: 0,
  props: { tag, size: 16, align: 'right' },
})
