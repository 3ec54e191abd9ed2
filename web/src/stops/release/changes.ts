import type { Schemas } from '../../api/client'

// Differences between two versions, as the list shows them.

export type Difference = Schemas['VersionDifference']
export type How = 'made' | 'changed' | 'gone'

export const keyOf = (d: { kind: string; id: string }) => `${d.kind}/${d.id}`

export function howOf(d: { made: boolean; gone: boolean }): How {
  if (d.made) return 'made'
  return d.gone ? 'gone' : 'changed'
}

/** How many there are of each, without what there is none of. */
export function countsOf(list: { made: boolean; gone: boolean }[]): Partial<Record<How, number>> {
  const out: Partial<Record<How, number>> = {}
  for (const how of ['made', 'changed', 'gone'] as const) {
    const n = list.filter((d) => howOf(d) === how).length
    if (n) out[how] = n
  }
  return out
}

/** Those at a stop, by a person, with words in their names or in what differs. */
export function narrow<
  T extends {
    stop: string
    by: string[]
    name: string
    was: string
    fields: { path: string; before?: unknown; after?: unknown }[]
  },
>(list: T[], text: string, stop: string, person: string): T[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean)
  return list.filter((d) => {
    if (stop && d.stop !== stop) return false
    if (person && !d.by.includes(person)) return false
    if (!words.length) return true
    const all = [d.name, d.was, ...d.fields.flatMap((f) => [f.path, toldValue(f.before), toldValue(f.after)])]
      .join(' ')
      .toLowerCase()
    return words.every((w) => all.includes(w))
  })
}

/** Where a field lies within its thing, as words; the thing itself where it is empty. */
export function placeOf(pointer: string): string {
  const parts = pointer.split('/').slice(1)
  return parts.map((p) => p.replaceAll('~1', '/').replaceAll('~0', '~')).join(' › ') || '·'
}

/** A value as it reads: texts without quotes, nothing as a dash. */
export function toldValue(v: unknown): string {
  if (v === undefined || v === null || v === '') return '—'
  return typeof v === 'string' ? v : JSON.stringify(v)
}
