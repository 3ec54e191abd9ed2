import { type Props } from './element'
import { attr, make, show } from './svg'

/** The stroke of drawings. */
export const ink = 'var(--c-ink)'

/** Marks that every machine can carry: a fault tab above, a hand at its corner. */
export function marks(g: SVGGElement, w: number) {
  const tab = make(g, 'g')
  // How urgent it is, its alarm says: the mark of the fault itself has no priority.
  const small = w < 44
  const length = small ? 20 : 38
  make(tab, 'path', { d: `M0 0h${length}v16h${-length}l4-4-4-4 4-4z`, fill: ink })
  make(tab, 'text', {
    x: small ? 8 : 9,
    y: 12,
    'font-size': 11,
    'font-weight': 700,
    fill: 'var(--c-sheet)',
  }).textContent = small ? '!' : 'Trip'
  const hand = make(g, 'g')
  make(hand, 'circle', { cx: 0, cy: 0, r: 9, fill: 'var(--c-sheet)', stroke: ink })
  make(hand, 'path', {
    d: 'M-4 1v-4m2.4 3v-5m2.4 5v-5m2.4 5v-3.5M-4 1c0 4 1.5 5 4 5s3.6-1.6 3.6-5',
    fill: 'none',
    stroke: ink,
    'stroke-width': 1.6,
    'stroke-linecap': 'round',
  })
  attr(hand, 'transform', `translate(${w - 4} 6)`)
  return (p: Props) => {
    show(tab, p.fault === true)
    attr(tab, 'transform', `translate(${w / 2 - length / 2} -14)`)
    show(hand, p.hand === true)
  }
}
