import type { Column, Values } from './columns'

/** What a page tells the server of a book: the recipe that is open, as it is edited; see docs/live-protocol.md. */
export interface Opened {
  name: string
  /** 0 for one that is new. */
  version: number
  /** It is edited and not saved. */
  changed: boolean
  values: Values
}

interface Field {
  id: string
  formula: string
}
interface Sheet {
  name: string
  version: number
  cells: { text: string }[]
}

/** What is open in the first column; nothing while that is a device, or not read yet. */
export function openedIn(
  fields: Field[],
  column: Column | undefined,
  sheet: Sheet | undefined,
  edited: Values | undefined,
): Opened | undefined {
  if (!column || column.target !== undefined || !sheet) return undefined
  const values: Values = {}
  fields.forEach((f, i) => {
    const text = (f.formula ? undefined : edited?.[f.id]) ?? sheet.cells[i]?.text
    if (text !== undefined && text !== '') values[f.id] = text
  })
  return {
    name: column.name ?? sheet.name,
    version: column.name ? 0 : sheet.version,
    changed: !!edited,
    values,
  }
}

/** A number by so much more, as a text; undefined where there is none. */
export function stepped(text: string | undefined, by: number): string | undefined {
  const now = Number(text)
  if (!text?.trim() || !Number.isFinite(now)) return undefined
  return String(Number((now + by).toPrecision(12)))
}
