import type { ElementKind } from '../element'
import { field } from '../field'

/** A screen within a screen. */
const kind: ElementKind = { name: 'embed', draw: field, holds: true }
export default kind
