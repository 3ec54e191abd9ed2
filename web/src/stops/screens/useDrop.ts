import readoutKind, { readoutOf } from '../../canvas/kinds/readout'
import repeatKind, { repeatOf } from '../../canvas/kinds/repeat'
import symbolKind from '../../canvas/kinds/symbol'
import tableKind, { tableOf } from '../../canvas/kinds/table'
import { textOf } from '../../canvas/kinds/text'
import { isGroup } from '../../canvas/registry'
import { shallowRef, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Element, type Schemas, type TagRow } from '../../api/client'
import { useCatalogue } from '../../rail/catalogue'
import { useProject } from '../../rail/project'
import type { Editor } from './useEditor'
import type { View } from './useView'

/** A piece of equipment that is dragged: with the names and symbol of its type, and how many its array has. */
export interface Piece {
  id: string
  path: string
  type: string
  symbol?: string
  mates: number
}

/** One way to show what was dropped; kind draws its preview. */
export interface Choice {
  kind: string
  title: string
  elements: () => Element[]
}

/** One place of the element that it was dropped on to which it can be bound. */
export interface Place {
  title: string
  bind: () => void
}

/** What was dropped, and where the ways to show it are offered, in the window. */
export interface Offer {
  name: string
  note: string
  choices: Choice[]
  onto?: { name: string; places: Place[] }
  left: number
  top: number
}

const ROW = 32

/** Dropping tags, members, equipment and kinds onto the screen. */
export function useDrop(
  editor: Editor,
  frame: Ref<HTMLElement | undefined>,
  { width, height, left, top, update, toScreen }: View,
) {
  const project = useProject()
  const catalogue = useCatalogue()
  const { t } = useI18n()
  const offer = shallowRef<Offer>()

  const put = (elements: Element[]) => void (elements.length && editor.add(t('editor.placed'), elements))
  const below = (kind: string, i: number) => i * ((catalogue.kind(kind)?.h ?? 40) + 24)
  const snapped = (v: number) => Math.max(0, Math.round(v / 8) * 8)
  const table = (p: { x: number; y: number }, tags: string[], caption?: string) =>
    tableOf(snapped(p.x), snapped(p.y), tags, caption)

  function placeInMiddle(kind: string) {
    const k = catalogue.kind(kind)!
    put([editor.make(kind, editor.doc.value!.width / 2 - k.w / 2, editor.doc.value!.height / 2 - k.h / 2)])
  }

  async function drop(e: DragEvent) {
    update()
    const p = toScreen(e)
    const at = {
      left: Math.min(e.clientX - left.value, width.value - 330),
      top: Math.min(e.clientY - top.value, height.value - 110),
    }
    const carried = <T>(name: string): T[] =>
      JSON.parse(e.dataTransfer?.getData('application/x-rr-' + name) || '[]')
    const kind = e.dataTransfer?.getData('application/x-rr-kind')
    const [tags, pieces, points] = [
      carried<string>('tags'),
      carried<Piece>('gear'),
      carried<Schemas['ScreenPoint']>('points'),
    ]
    frame.value!.focus()
    if (kind) {
      const k = catalogue.kind(kind)!
      put([editor.make(kind, p.x - k.w / 2, p.y - k.h / 2)])
    } else if (pieces.length) await dropPieces(pieces, p, at)
    else if (points.length) {
      const choices = named(points[0]!.offers).map(([name, title]) => ({
        kind: name,
        title,
        elements: () => points.map((pt, i) => editor.makePoint(name, p.x, p.y + below(name, i), pt)),
      }))
      offer.value = {
        name: points.length > 1 ? t('drop.many', { n: points.length }) : points[0]!.path,
        note: points[0]!.kind,
        choices,
        ...at,
      }
    } else if (tags.length) await dropTags(tags, p, at)
  }
  const named = (kinds: string[] | null | undefined) =>
    (kinds ?? []).filter((k) => catalogue.kind(k)).map((k) => [k, catalogue.kindTitle(k)] as [string, string])

  async function dropTags(ids: string[], p: { x: number; y: number }, at: { left: number; top: number }) {
    const rows = await Promise.all(
      ids.map((id) =>
        ask(api.GET('/api/projects/{project}/tags/{id}', { params: { path: { ...project.path, id } } })),
      ),
    )
    const first = rows[0]!
    const choices: Choice[] = named(first.offers).map(([kind, title]) => ({
      kind,
      title,
      elements: () => rows.map((row, i) => editor.make(kind, p.x, p.y + below(kind, i), row)),
    }))
    if (rows.length > 1)
      choices.push(
        { kind: readoutKind.name, title: t('drop.labels'), elements: () => labels(rows, p) },
        { kind: tableKind.name, title: t('drop.table'), elements: () => [table(p, ids)] },
      )
    else {
      const mates = await arrayOf(first.tag.id)
      if (mates.length > 1)
        choices.push({
          kind: tableKind.name,
          title: t('drop.array', { n: mates.length }),
          elements: () => [table(p, mates)],
        })
    }
    offer.value = {
      name: rows.length > 1 ? t('drop.many', { n: rows.length }) : first.path,
      note: first.tag.type,
      choices,
      onto: rows.length === 1 ? onto(first, p) : undefined,
      ...at,
    }
  }
  /** Where the element under the pointer can take a tag: as its tag, or as what drives a property of the same type. */
  function onto(row: TagRow, p: { x: number; y: number }): Offer['onto'] {
    const hit = [...editor.order.value]
      .reverse()
      .map((id) => [id, editor.doc.value!.elements[id]!] as const)
      .find(
        ([, e]) =>
          !isGroup(e) &&
          !e.locked &&
          !e.hidden &&
          p.x >= e.x &&
          p.x <= e.x + e.w &&
          p.y >= e.y &&
          p.y <= e.y + e.h,
      )
    if (!hit) return undefined
    const [id, e] = hit
    const name = e.name || catalogue.kindTitle(e.kind)
    const takes = row.tag.type === 'BOOL' ? 'bool' : row.tag.type.startsWith('STRING') ? 'text' : 'number'
    const bind = (field: string, value: string, what: string) => () => {
      editor.selection.value = new Set([id])
      void editor.set(t('inspector.bound', { what }), [[id, field, value]])
    }
    const props = catalogue.kind(e.kind)?.props ?? []
    const places: Place[] = props
      .filter((x) => x.type === 'tag')
      .map((x) => ({
        title: catalogue.propTitle(x),
        bind: bind('props/' + x.name, row.tag.id, catalogue.propTitle(x)),
      }))
    for (const x of [...props, ...catalogue.places]) {
      if (x.bindable && x.type === takes)
        places.push({
          title: catalogue.propTitle(x),
          bind: bind('bind/' + x.name, row.path, catalogue.propTitle(x)),
        })
    }
    return places.length ? { name, places } : undefined
  }
  /** Tags as a label and a readout each, one below the other. */
  const labels = (rows: TagRow[], p: { x: number; y: number }): Element[] =>
    rows.flatMap((row, i) => [
      textOf(row.tag.description || row.path, p.x, p.y + i * ROW, 200),
      readoutOf(row.tag.id, p.x + 208, p.y + i * ROW, 120),
    ])
  /** The ids of what differs from a tag or folder in the last index of its path. */
  async function arrayOf(of: string): Promise<string[]> {
    return (
      await ask(api.GET('/api/projects/{project}/array', { params: { path: project.path, query: { of } } }))
    ).map((x) => x.id)
  }

  /** Equipment is shown by its symbol at once; one of an array, or one without a symbol, by choice. */
  async function dropPieces(pieces: Piece[], p: { x: number; y: number }, at: { left: number; top: number }) {
    const symbols = () => pieces.flatMap((piece, i) => editor.equip(p.x, p.y + i * 24, piece) ?? [])
    const one = pieces.length === 1 ? pieces[0]! : undefined
    if (!one) return put(symbols())
    const mates = one.id.startsWith('$') ? one.mates : (await arrayOf(one.id)).length
    if (one.symbol && mates < 2) return put(symbols())
    const choices: Choice[] = []
    if (one.symbol) {
      choices.push({ kind: symbolKind.name, title: t('drop.symbol'), elements: symbols })
      choices.push({
        kind: repeatKind.name,
        title: t('drop.repeat', { n: mates }),
        elements: () => {
          const symbol = project.screens.find((s) => s.id === one.symbol)
          return symbol ? [repeatOf(symbol, snapped(p.x), snapped(p.y), one.id, mates)] : []
        },
      })
    }
    if (!one.id.startsWith('$')) {
      const page = await ask(
        api.GET('/api/projects/{project}/tags', {
          params: { path: project.path, query: { text: one.path + '.', limit: 200 } },
        }),
      )
      const members = (page.rows ?? []).filter((r) => r.path.startsWith(one.path + '.')).map((r) => r.tag.id)
      if (members.length)
        choices.push({
          kind: tableKind.name,
          title: t('drop.members', { n: members.length }),
          elements: () => [table(p, members, one.path)],
        })
    }
    offer.value = { name: one.path, note: one.type, choices, ...at }
  }
  function choose(c: Choice) {
    offer.value = undefined
    put(c.elements())
  }
  function bindTo(place: Place) {
    offer.value = undefined
    place.bind()
  }
  return { drop, choose, bindTo, placeInMiddle, offer }
}
