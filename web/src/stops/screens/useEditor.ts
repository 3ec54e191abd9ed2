import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Element, type Op, type Refused, type Screen, type TagRow } from '../../api/client'
import { freshId, useProject } from '../../rail/project'
import { aligned, type Alignment, type Box } from './geometry'

const clipboard = { get: () => JSON.parse(localStorage.getItem('rr-clipboard') ?? '[]') as Element[], set: (e: Element[]) => localStorage.setItem('rr-clipboard', JSON.stringify(e)) }

/** A screen being edited: the document, the selection, and every edit to it. */
export function useEditor(screenId: Ref<string>) {
  const project = useProject()
  const { t } = useI18n()
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
    const got = await ask(api.GET('/api/projects/{project}/screens/{id}', { params: { path: { ...project.path, id } } })).catch(() => undefined)
    if (id !== screenId.value || pending || asked !== epoch) return
    doc.value = got
    selection.value = new Set([...selection.value].filter((e) => got?.elements[e]))
  }
  watch(screenId, () => {
    selection.value = new Set()
    doc.value = undefined
    void load()
  }, { immediate: true })
  watch(() => project.version, load)

  const order = computed(() => Object.entries(doc.value?.elements ?? {}).sort(([a, x], [b, y]) => x.z - y.z || (a < b ? -1 : 1)).map(([id]) => id))
  const selected = computed<[string, Element][]>(() => order.value.filter((id) => selection.value.has(id)).map((id) => [id, doc.value!.elements[id]!]))
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

  const op = (path: string, value: unknown, was?: unknown): Op => ({ kind: 'screen', id: screenId.value, path, value, was })

  /** Sets fields of elements: x, props/fill, bind/visible; undefined removes. */
  function set(label: string, changes: [id: string, field: string, value: unknown][]) {
    if (!doc.value || !changes.length) return
    const elements = { ...doc.value.elements }
    const ops: Op[] = []
    for (const [id, field, value] of changes) {
      const e = elements[id]
      if (!e) continue
      const [group, name] = field.split('/') as [string, string | undefined]
      const copy = structuredClone(toPlain(e)) as unknown as Record<string, Record<string, unknown>>
      const holder = name === undefined ? copy : ((copy[group] ??= {}) as Record<string, unknown>)
      const key = name ?? group
      const was = holder[key]
      if (JSON.stringify(was) === JSON.stringify(value)) continue
      if (value === undefined) delete holder[key]
      else (holder as Record<string, unknown>)[key] = value
      elements[id] = copy as unknown as Element
      ops.push(op(`/elements/${id}/${field}`, value, was))
    }
    if (ops.length) return apply(label, { ...doc.value, elements }, ops)
  }

  function place(label: string, boxes: Map<string, Partial<Box>>) {
    const changes: [string, string, unknown][] = []
    for (const [id, b] of boxes) for (const [k, v] of Object.entries(b)) changes.push([id, k, Math.round(v * 10) / 10])
    return set(label, changes)
  }

  function add(label: string, list: Element[]) {
    if (!doc.value) return
    const elements = { ...doc.value.elements }
    const ops: Op[] = []
    const ids: string[] = []
    let z = topZ()
    for (const e of list) {
      const id = freshId('element')
      const made = { ...e, z: z++ }
      elements[id] = made
      ids.push(id)
      ops.push(op('/elements/' + id, made))
    }
    selection.value = new Set(ids)
    return apply(label, { ...doc.value, elements }, ops)
  }

  function remove() {
    if (!doc.value || !selection.value.size) return
    const elements = { ...doc.value.elements }
    const ops = [...selection.value].map((id) => {
      delete elements[id]
      return op('/elements/' + id, undefined)
    })
    const n = selection.value.size
    selection.value = new Set()
    return apply(t('editor.deleted', { n }), { ...doc.value, elements }, ops)
  }

  /** A new element of a kind at a place, with what a tag gives it. */
  function make(kindName: string, x: number, y: number, row?: TagRow): Element {
    const k = project.kind(kindName)!
    const props: Record<string, unknown> = {}
    if (row) {
      props.tag = row.tag.id
      // A bar is narrow: it takes the name, the others the description.
      const name = kindName === 'bar' ? row.tag.name : row.tag.description || row.tag.name
      if (project.prop(kindName, 'caption')) props.caption = name
      if (kindName === 'button') props.action = 'toggle'
      if (kindName === 'bar') {
        props.low = row.tag.low ?? row.tag.scale?.engLow ?? 0
        props.high = row.tag.high ?? row.tag.scale?.engHigh ?? 100
      }
    }
    const tall = kindName === 'readout' && row ? 20 : 0
    return { kind: kindName, x: Math.max(0, Math.round(x / 8) * 8), y: Math.max(0, Math.round(y / 8) * 8), w: k.w, h: k.h + tall, z: 0, props }
  }

  function copy() {
    if (selected.value.length) clipboard.set(selected.value.map(([, e]) => toPlain(e)))
  }
  function paste(dx = 16, dy = 16) {
    const list = clipboard.get()
    if (list.length) return add(t('editor.pasted', { n: list.length }), list.map((e) => ({ ...e, x: e.x + dx, y: e.y + dy })))
  }
  function duplicate() {
    copy()
    return paste()
  }
  function align(how: Alignment) {
    return place(t('editor.aligned'), aligned(how, selected.value))
  }
  function raise(up: boolean) {
    const zs = Object.values(doc.value?.elements ?? {}).map((e) => e.z)
    const base = up ? Math.max(...zs) + 1 : Math.min(...zs) - selected.value.length
    return set(t('editor.ordered'), selected.value.map(([id], i) => [id, 'z', base + i]))
  }

  return { doc, selection, selected, order, refused, load, set, place, add, remove, make, copy, paste, duplicate, align, raise }
}

const toPlain = <T>(v: T): T => JSON.parse(JSON.stringify(v)) as T

export type Editor = ReturnType<typeof useEditor>
