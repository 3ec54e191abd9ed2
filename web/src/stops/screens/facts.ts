import type { Element, Kind, Prop, TagRow } from '../../api/client'

// What the catalogue says of kinds of elements, as the editor asks for it: no
// kind is known here by its name.

/** Whether a property matters to an element as its choices are. */
export function matters(kind: Kind, p: Prop, e: Element): boolean {
  if (!p.when) return true
  const [name, wanted] = p.when.split('=') as [string, string]
  const chosen = e.props?.[name] ?? kind.props.find((x) => x.name === name)?.default
  return wanted.split('|').includes(chosen as string)
}

/** The screen that an element shows or opens; empty where it has none. */
export function screenOf(kind: Kind | undefined, e: Element): string {
  const p = kind?.props.find((x) => x.type === 'screen' && matters(kind, x, e))
  return p ? ((e.props?.[p.name] as string) ?? '') : ''
}

/** What a new element of a kind is given: its tag, and of the kind's seeds those whose source is known. */
function grown(kind: Kind, tag: string, from: Record<string, unknown>): Record<string, unknown> {
  const known = (kind.seeds ?? []).filter((s) => !s.from || s.from in from)
  return { tag, ...Object.fromEntries(known.map((s) => [s.prop, s.from ? from[s.from] : s.value])) }
}

/** What a new element of a kind takes from a tag. */
export const seeds = (kind: Kind, { tag }: Pick<TagRow, 'tag'>): Record<string, unknown> =>
  grown(kind, tag.id, {
    name: tag.name,
    title: tag.description || tag.name,
    low: tag.low ?? tag.scale?.engLow ?? 0,
    high: tag.high ?? tag.scale?.engHigh ?? 100,
  })

/** What a new element of a kind takes from a member of a parameter: its range is known when it is given. */
export function memberSeeds(
  kind: Kind,
  point: { id: string; path: string; title: string },
): Record<string, unknown> {
  const name = point.title || point.path.split('.').at(-1)
  return grown(kind, point.id, { name, title: name })
}
