/** Values of a recipe's fields by their ids, as they are edited. */
export type Values = Record<string, string>

/** One column beside others: a recipe, a version of it, a new one, or what a target has. */
export interface Column {
  key: string
  /** Id; empty for a new recipe and for a target. */
  recipe: string
  /** 0 for the newest. */
  version: number
  target?: string
  /** Of a new recipe. */
  name?: string
}

interface Enterable {
  id: string
  formula: string
}

/**
 * Lays a block of texts over columns and fields, from one cell on: rows go down the
 * fields that are entered, further texts of a row into the next columns. A block of
 * one text stays in its cell; what goes past an end is left out.
 */
export function laid(
  columns: Column[],
  fields: Enterable[],
  key: string,
  field: string,
  block: string[][],
): Map<Column, Values> {
  const entered = fields.filter((f) => !f.formula)
  const top = entered.findIndex((f) => f.id === field)
  const left = columns.findIndex((c) => c.key === key)
  const out = new Map<Column, Values>()
  if (top < 0 || left < 0) return out
  block.forEach((row, down) =>
    row.forEach((text, right) => {
      const c = columns[left + right]
      const f = entered[top + down]
      if (!c || !f || (c.version && right + down > 0)) return
      out.set(c, { ...out.get(c), [f.id]: text.trim() })
    }),
  )
  return out
}

/**
 * The fields that patterns name, in their order: names with * for anything, parted
 * by commas. All where there is no pattern.
 */
export function picked<F extends { id: string; name: string }>(fields: F[], patterns: string): F[] {
  const out = new Map<string, F>()
  const asked = patterns.split(',').flatMap((p) => p.trim() || [])
  for (const p of asked.length ? asked : ['*']) {
    const fits = new RegExp('^' + p.replace(/[.+?^${}()|[\]\\]/g, '\\$&').replace(/\*/g, '.*') + '$', 'i')
    for (const f of fields) if (fits.test(f.name)) out.set(f.id, f)
  }
  return [...out.values()]
}

/** The cells of a text that comes from a spreadsheet: lines, parted by tabs. */
export function cells(text: string): string[][] {
  return text
    .replace(/\r?\n$/, '')
    .split(/\r?\n/)
    .map((line) => line.split('\t'))
}

/** The cell to go to from one: in the column by so many fields, or in the next columns. */
export function neighbour(
  columns: Column[],
  fields: Enterable[],
  at: { key: string; field: string },
  down: number,
  right: number,
): { key: string; field: string } | undefined {
  const entered = fields.filter((f) => !f.formula)
  const open = columns.filter((c) => c.target === undefined)
  const f = entered[entered.findIndex((x) => x.id === at.field) + down]
  const c = open[open.findIndex((x) => x.key === at.key) + right]
  return f && c && { key: c.key, field: f.id }
}
