import { useI18n } from 'vue-i18n'
import type { Schemas } from '../api/client'
import type { Column } from './columns'
import { problemText } from './problem'
import type { Book, OpenBook, Sheet } from './useBook'

type Field = Schemas['FieldShown']

/** What the cells of a book's fields show, wherever one stands. */
export function useCells(book: () => Book, o: OpenBook) {
  const { t } = useI18n({ useScope: 'global' })
  const cellOf = (f: Field, sheet?: Sheet) => sheet?.cells[book().fields.indexOf(f)]
  /** Whether people enter the field in this column. */
  const enterable = (c: Column, f: Field) =>
    book().mayWrite && !o.gone.value && c.target === undefined && !c.version && !f.formula
  const wrong = (f: Field, sheet?: Sheet) =>
    (sheet?.problems ?? [])
      .filter((p) => p.field === f.id)
      .map((p) => problemText(t, p))
      .join('. ')
  const textOf = (c: Column, f: Field, sheet?: Sheet) =>
    o.edits.get(c.key)?.[f.id] ?? (o.edits.has(c.key) ? '' : cellOf(f, sheet)?.text)
  /** The limits as they are with the values of a sheet. */
  const limits = (f: Field, sheet?: Sheet) => {
    const cell = cellOf(f, sheet)
    if (f.formula) return t('recipe.computed')
    if (f.type.startsWith('STRING')) return t('recipe.letters', { n: f.type.match(/\d+/)?.[0] ?? '' })
    if (cell?.low && cell.high) return t('recipe.limits', { low: cell.low, high: cell.high })
    return cell?.low ? '≥ ' + cell.low : cell?.high ? '≤ ' + cell.high : ''
  }
  /** What a cell is given, but for its name and where it leads. */
  const cell = (c: Column, f: Field, sheet?: Sheet) => ({
    field: f,
    cell: cellOf(f, sheet),
    text: textOf(c, f, sheet),
    enterable: enterable(c, f),
    wrong: wrong(f, sheet),
    told: c.target !== undefined,
    place: c.key + ' ' + f.id,
    onUndo: () => o.undo(c.key),
  })
  return { cell, limits, wrong }
}
