import { groupOf } from '../../canvas/kinds/group'
import { symbolOf } from '../../canvas/kinds/symbol'
import { isGroup } from '../../canvas/registry'
import { memberSeeds, seeds } from './facts'
import { computed, onUnmounted, ref, shallowRef, watch, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Element, type Op, type Refused, type Screen, type TagRow } from '../../api/client'
import { useSession } from '../../api/session'
import { useCatalogue } from '../../rail/catalogue'
import { freshId, useProject } from '../../rail/project'
import { aligned, around, type Alignment, type Box } from './geometry'
import { useClipboard } from './useClipboard'

/** A screen being edited: the document, the selection, and every edit to it. */
export function useEditor(screenId: Ref<string>) {
  const project = useProject()
  const catalogue = useCatalogue()
  const session = useSession()
  const { t } = useI18n()
  const clipboard = useClipboard()
  const doc = shallowRef<Screen>()
  const selection = ref(new Set<string>())
  const refused = shallowRef<Refused>()
  let pending = 0
  // Counts edits: an answer that was asked for before an edit is older than it.
  let epoch = 0

  async function load() {
    const id = screenId.value
    const asked = epoch
    if (!id) {
      doc.value = undefined
      return
    }
    const got = await ask(
      api.GET('/api/projects/{project}/screens/{id}', { params: { path: { ...project.path, id } } }),
    ).catch(() => undefined)
    if (id !== screenId.value || pending || asked !== epoch) return
    doc.value = got
    select(got)
  }
  /** What was selected and is no longer there: taken back, it is selected again. */
  let away: string[] = []
  function select(now: Screen | undefined) {
    const gone = [...selection.value].filter((e) => !now?.elements[e])
    const kept = [...selection.value].filter((e) => now?.elements[e])
    if (gone.length) away = gone
    else if (!kept.length && away.length && away.every((e) => now?.elements[e])) {
      kept.push(...away)
      away = []
    }
    selection.value = new Set(kept)
  }
  watch(
    screenId,
    () => {
      away = []
      selection.value = new Set()
      doc.value = undefined
      void load()
    },
    { immediate: true },
  )
  watch(() => project.versionOf('screen/' + screenId.value, 'type', 'equipment', 'paths'), load)

  /** Who else edited this screen, for half a minute after. */
  const other = ref('')
  let forget = 0
  onUnmounted(
    project.onNews((n) => {
      if (
        !n.things?.includes('screen/' + screenId.value) ||
        !n.person ||
        n.person === session.me?.person?.name
      )
        return
      other.value = n.person
      clearTimeout(forget)
      forget = window.setTimeout(() => (other.value = ''), 30_000)
    }),
  )

  /** The elements from the lowest to the highest; what lies in a group comes right behind it. */
  const order = computed(() => {
    const all = Object.entries(doc.value?.elements ?? {}).sort(
      ([a, x], [b, y]) => x.z - y.z || (a < b ? -1 : 1),
    )
    const within = new Map<string, string[]>()
    for (const [id, e] of all) within.set(e.group ?? '', [...(within.get(e.group ?? '') ?? []), id])
    const out: string[] = []
    const visit = (group: string) =>
      within.get(group)?.forEach((id) => {
        out.push(id)
        if (within.has(id)) visit(id)
      })
    visit('')
    return out
  })
  const selected = computed<[string, Element][]>(() =>
    order.value.filter((id) => selection.value.has(id)).map((id) => [id, doc.value!.elements[id]!]),
  )
  /** The group that is edited from inside; empty outside all groups. */
  const inside = ref('')
  const members = computed(() => {
    const out = new Map<string, string[]>()
    for (const id of order.value) {
      const g = doc.value!.elements[id]!.group
      if (g) (out.get(g) ?? out.set(g, []).get(g)!).push(id)
    }
    return out
  })
  /** Everything that lies in some elements, themselves among them. */
  function whole(ids: Iterable<string>): string[] {
    const out: string[] = []
    const visit = (id: string) => {
      out.push(id)
      members.value.get(id)?.forEach(visit)
    }
    for (const id of ids) visit(id)
    return [...new Set(out)]
  }
  /** What a click on an element takes: the outermost group around it, as far as it is not edited from inside. */
  function unit(id: string): string {
    let at = id
    for (
      let g = doc.value?.elements[at]?.group;
      g && g !== inside.value && doc.value?.elements[g];
      g = doc.value.elements[at]?.group
    )
      at = g
    return at
  }
  /** The place of an element; of a group, around what lies in it. */
  function boxOf(id: string): Box {
    const e = doc.value!.elements[id]!
    if (!isGroup(e)) return e
    return (
      around(
        whole([id])
          .filter((x) => x !== id && !isGroup(doc.value!.elements[x]!))
          .map((x) => doc.value!.elements[x]!),
      ) ?? e
    )
  }
  const topZ = () => Math.max(0, ...Object.values(doc.value?.elements ?? {}).map((e) => e.z)) + 1

  /** Applies an edit here at once and then at the server; a refusal takes it back. */
  async function apply(label: string, next: Screen, ops: Op[]) {
    doc.value = next
    pending++
    epoch++
    refused.value = await project.edit(label, ops)
    pending--
    if (refused.value || !pending) await load()
  }

  const op = (path: string, value: unknown, was?: unknown): Op => ({
    kind: 'screen',
    id: screenId.value,
    path,
    value,
    was,
  })

  /** Sets fields of elements: x, props/fill, bind/visible; undefined removes. */
  function set(label: string, changes: [id: string, field: string, value: unknown][]) {
    if (!doc.value || !changes.length) return
    const elements = { ...doc.value.elements }
    const ops: Op[] = []
    for (const [id, field, value] of changes) {
      const e = elements[id]
      if (!e) continue
      // A part of a picture has a stroke of its own in its name.
      const cut = field.indexOf('/')
      const [group, name] = (cut < 0 ? [field, undefined] : [field.slice(0, cut), field.slice(cut + 1)]) as [
        string,
        string | undefined,
      ]
      const copy = toPlain(e) as unknown as Record<string, Record<string, unknown>>
      const holder = name === undefined ? copy : ((copy[group] ??= {}) as Record<string, unknown>)
      const key = name ?? group
      const was = holder[key]
      if (JSON.stringify(was) === JSON.stringify(value)) continue
      if (value === undefined) delete holder[key]
      else (holder as Record<string, unknown>)[key] = value
      elements[id] = copy as unknown as Element
      ops.push(
        op(
          `/elements/${id}/${name === undefined ? group : group + '/' + name.replaceAll('~', '~0').replaceAll('/', '~1')}`,
          value,
          was,
        ),
      )
    }
    if (ops.length) return apply(label, { ...doc.value, elements }, ops)
  }

  function place(label: string, boxes: Map<string, Partial<Box>>) {
    const changes: [string, string, unknown][] = []
    for (const [id, b] of boxes)
      for (const [k, v] of Object.entries(b)) changes.push([id, k, Math.round(v * 10) / 10])
    return set(label, changes)
  }

  /** Adds elements; those with an old id keep their groups among themselves. */
  function add(label: string, list: (Element | [string, Element])[]) {
    if (!doc.value) return
    const elements = { ...doc.value.elements }
    const ops: Op[] = []
    const pairs = list.map((e) => (Array.isArray(e) ? e : (['', e] as [string, Element])))
    const fresh = new Map(pairs.filter(([old]) => old).map(([old]) => [old, freshId('element')]))
    const ids: string[] = []
    let z = topZ()
    // Groups go first: what lies in them names them.
    for (const [old, e] of [...pairs].sort(([, x], [, y]) => Number(isGroup(y)) - Number(isGroup(x)))) {
      const id = fresh.get(old) ?? freshId('element')
      const group = (e.group && fresh.get(e.group)) || inside.value || undefined
      const made = { ...e, z: z++, group }
      elements[id] = made
      if (!e.group || !fresh.has(e.group)) ids.push(id)
      ops.push(op('/elements/' + id, made))
    }
    selection.value = new Set(ids)
    return apply(label, { ...doc.value, elements }, ops)
  }

  function remove() {
    if (!doc.value || !selection.value.size) return
    const elements = { ...doc.value.elements }
    // What lies in a group goes before the group.
    const all = whole(selection.value).reverse()
    const ops = all.map((id) => {
      delete elements[id]
      return op('/elements/' + id, undefined)
    })
    away = [...selection.value]
    selection.value = new Set()
    return apply(t('editor.deleted', { n: all.length }), { ...doc.value, elements }, ops)
  }

  /** Makes a group of the selection. */
  function group() {
    const chosen = selected.value
    if (!doc.value || chosen.length < 2) return
    const id = freshId('element')
    const f = around(chosen.map(([x]) => boxOf(x)))!
    const made: Element = {
      ...groupOf(f),
      z: Math.max(...chosen.map(([, e]) => e.z)),
      group: inside.value || undefined,
    }
    const elements = { ...doc.value.elements, [id]: made }
    const ops = [op('/elements/' + id, made)]
    for (const [x, e] of chosen) {
      elements[x] = { ...e, group: id }
      ops.push(op(`/elements/${x}/group`, id))
    }
    selection.value = new Set([id])
    return apply(t('editor.grouped'), { ...doc.value, elements }, ops)
  }
  function ungroup() {
    const groups = selected.value.filter(([, e]) => isGroup(e))
    if (!doc.value || !groups.length) return
    const elements = { ...doc.value.elements }
    const ops: Op[] = []
    const freed: string[] = []
    for (const [id, g] of groups) {
      for (const m of members.value.get(id) ?? []) {
        elements[m] = { ...elements[m]!, group: g.group }
        ops.push(op(`/elements/${m}/group`, g.group))
        freed.push(m)
      }
      delete elements[id]
      ops.push(op('/elements/' + id, undefined))
    }
    selection.value = new Set(freed)
    return apply(t('editor.ungrouped'), { ...doc.value, elements }, ops)
  }
  const flag = (name: 'locked' | 'hidden', on: boolean) =>
    set(
      t(on ? 'editor.' + name : 'editor.un' + name),
      selected.value.map(([id]) => [id, name, on || undefined]),
    )

  /** A new element of a kind at a place, with what a tag gives it. */
  function make(kindName: string, x: number, y: number, row?: TagRow): Element {
    const k = catalogue.kind(kindName)!
    return {
      kind: kindName,
      x: Math.max(0, Math.round(x / 8) * 8),
      y: Math.max(0, Math.round(y / 8) * 8),
      w: k.w,
      h: k.h + (row ? (k.taller ?? 0) : 0),
      z: 0,
      props: row ? seeds(k, row) : {},
    }
  }

  /** A new element bound to a member of one of the screen's parameters. */
  function makePoint(
    kindName: string,
    x: number,
    y: number,
    point: { id: string; path: string; title: string },
  ): Element {
    const k = catalogue.kind(kindName)!
    const e = make(kindName, x, y)
    return { ...e, h: e.h + (k.taller ?? 0), props: memberSeeds(k, point) }
  }

  /** The symbol of a piece of equipment, or its members as labels and readouts where its type has none. */
  function equip(x: number, y: number, piece: { id: string; symbol?: string }): Element | undefined {
    const symbol = project.screens.find((s) => s.id === piece.symbol)
    const param = symbol?.params.find((p) => p.kind === 'equipment')
    if (!symbol || !param) return undefined
    return symbolOf(
      symbol,
      Math.round((x - symbol.width / 2) / 8) * 8,
      Math.round((y - symbol.height / 2) / 8) * 8,
      { [param.id]: piece.id },
    )
  }

  async function copy() {
    if (selected.value.length)
      await clipboard.copy(
        whole(selection.value).map((id) => [id, toPlain(doc.value!.elements[id]!)] as [string, Element]),
      )
  }
  /** Puts what was copied onto the screen, beside where it was. */
  async function paste(dx = 16, dy = 16) {
    const elements = await clipboard.take()
    if (elements.length)
      return add(
        t('editor.pasted', { n: elements.length }),
        elements.map(([id, e]) => [id, { ...e, x: e.x + dx, y: e.y + dy }] as [string, Element]),
      )
  }
  function duplicate() {
    const elements = whole(selection.value).map(
      (id) => [id, toPlain(doc.value!.elements[id]!)] as [string, Element],
    )
    if (elements.length)
      return add(
        t('editor.pasted', { n: elements.length }),
        elements.map(([id, e]) => [id, { ...e, x: e.x + 16, y: e.y + 16 }] as [string, Element]),
      )
  }
  function align(how: Alignment) {
    const boxes = aligned(
      how,
      selected.value.map(([id, e]) => [id, isGroup(e) ? { ...e, ...boxOf(id) } : e]),
    )
    // What lies in a group goes with it.
    const out = new Map<string, Partial<Box>>()
    for (const [id, b] of boxes) {
      const from = boxOf(id)
      if (!isGroup(doc.value!.elements[id]!)) out.set(id, b)
      else
        for (const m of whole([id]))
          out.set(m, {
            x: doc.value!.elements[m]!.x + (b.x ?? from.x) - from.x,
            y: doc.value!.elements[m]!.y + (b.y ?? from.y) - from.y,
          })
    }
    return place(t('editor.aligned'), out)
  }
  /** Brings the selection to the front or back, or one step that way. */
  function raise(up: boolean, oneStep = false) {
    const all = order.value
    if (!selected.value.length) return
    const zs = Object.values(doc.value?.elements ?? {}).map((e) => e.z)
    if (oneStep) {
      const at = all.indexOf(selected.value[up ? selected.value.length - 1 : 0]![0])
      const next = all[at + (up ? 1 : -1)]
      if (!next) return
      const z = doc.value!.elements[next]!.z
      return set(
        t('editor.ordered'),
        selected.value.map(([id], i) => [
          id,
          'z',
          up ? z + (i + 1) / 1000 : z - (selected.value.length - i) / 1000,
        ]),
      )
    }
    const base = up ? Math.max(...zs) + 1 : Math.min(...zs) - selected.value.length
    return set(
      t('editor.ordered'),
      selected.value.map(([id], i) => [id, 'z', base + i]),
    )
  }

  /** The document with what was set on it as a whole and is still under way. */
  const latest = computed(() => doc.value && project.latest('screen', doc.value.id, doc.value))
  return {
    latest,
    doc,
    other,
    selection,
    selected,
    order,
    inside,
    members,
    refused,
    load,
    set,
    place,
    add,
    remove,
    make,
    makePoint,
    equip,
    copy,
    paste,
    duplicate,
    align,
    raise,
    whole,
    unit,
    boxOf,
    group,
    ungroup,
    flag,
  }
}

const toPlain = <T>(v: T): T => JSON.parse(JSON.stringify(v)) as T

/** An edit of many elements that is shown before it is made. */
export type PlanName = 'substitute' | 'symbol' | 'repeat' | 'steps'

export type Editor = ReturnType<typeof useEditor>
