import { type ElementKind } from '../element'
import { labelled } from '../labelled'

const draw = labelled(true)

const kind: ElementKind = {
  name: 'statetext',
  draw,
  speaks: true,
  reads: true,
}
export default kind
