import type { Schemas } from '../../api/client'

type Element = Schemas['Element']

/**
 * The elements of a page for a book, on a screen of a size: buttons above the list
 * and the table, sending and the devices beside them.
 */
export function bookElements(book: string, width: number, height: number): Record<string, Element> {
  const out: Record<string, Element> = {}
  let z = 0
  const put = (kind: string, x: number, y: number, w: number, h: number, props = {}) => {
    out['part' + z] = { kind, x, y, w, h, z: z++, props: { book, ...props } }
  }
  const [gap, button, list, right] = [8, 152, 252, 320]
  const top = gap + 48 + gap
  ;['new', 'save', 'undo', 'approve', 'delete'].forEach((does, i) =>
    put('recipebutton', gap + i * (button + gap), gap, button, 48, { does }),
  )
  put('recipelist', gap, top, list, height - top - gap)
  put('recipetable', list + 2 * gap, top, width - list - right - 4 * gap, height - top - gap)
  const half = Math.floor((height - 3 * gap) * 0.55)
  put('recipesend', width - right - gap, gap, right, half)
  put('recipetargets', width - right - gap, half + 2 * gap, right, height - half - 3 * gap)
  return out
}
