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

/** What a new element of a kind takes from a tag. */
export function seeds(kind: Kind, row: TagRow): Record<string, unknown> {
  const { tag } = row
  const from: Record<string, unknown> = {
    name: tag.name,
    title: tag.description || tag.name,
    low: tag.low ?? tag.scale?.engLow ?? 0,
    high: tag.high ?? tag.scale?.engHigh ?? 100,
  }
  return {
    tag: tag.id,
    ...Object.fromEntries((kind.seeds ?? []).map((s) => [s.prop, s.from ? from[s.from] : s.value])),
  }
}

/** What a new element of a kind takes from a member of a parameter: its range is known when it is given. */
export function memberSeeds(
  kind: Kind,
  point: { id: string; path: string; title: string },
): Record<string, unknown> {
  const named = { name: true, title: true } as Record<string, boolean>
  const name = point.title || point.path.split('.').at(-1)
  return {
    tag: point.id,
    ...Object.fromEntries(
      (kind.seeds ?? []).flatMap((s) =>
        s.from ? (named[s.from] ? [[s.prop, name]] : []) : [[s.prop, s.value]],
      ),
    ),
  }
}
