import type { ElementKind } from './element'

const files = import.meta.glob<ElementKind | ElementKind[]>('./kinds/*.ts', {
  eager: true,
  import: 'default',
})
const kinds = new Map(
  Object.values(files)
    .flat()
    .map((k) => [k.name, k]),
)

/** The kind of an element: its own file says what it does. One that is not known here is drawn as a rectangle. */
export const kindOf = (name: string): ElementKind => kinds.get(name) ?? kinds.get('rect')!

/** Whether people act on elements of a kind. */
export const acts = (k: ElementKind): boolean => !!k.press || !!k.wire

/** Whether others lie in an element as its group. */
export const isGroup = (e: { kind: string }): boolean => !!kindOf(e.kind).gathers
