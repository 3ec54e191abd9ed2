import type { Frame, Scene, SceneElement } from '../live/live'
import { quality } from '../live/live'
import { num, str, type Props, type Renderer, type State, type Update } from './element'
import * as equipment from './equipment'
import * as shapes from './shapes'
import { attr, make, show } from './svg'
import * as values from './values'

const renderers: Record<string, Renderer> = {
  rect: shapes.rect, ellipse: shapes.ellipse, line: shapes.line, text: shapes.textElement,
  readout: values.readout, entry: values.entry, lamp: values.lamp, button: values.button, bar: values.bar,
  fan: equipment.fan, chamber: equipment.chamber, stack: equipment.stack, damper: equipment.damper, coil: equipment.coil,
  spray: equipment.spray, car: equipment.car, track: equipment.track, burner: equipment.burner,
}

/** An element on the stage. */
export interface Item {
  element: SceneElement
  node: SVGGElement
  shown: Props // own properties with live values over them
  levels: Record<string, string> // of live properties
  reasons: Record<string, string>
  state: State
}

interface Drawn extends Item {
  update: Update
  veil: SVGRectElement
  title: SVGTitleElement
}

const backdrops = new Set(['chamber', 'stack', 'track'])

const rank: Record<string, number> = { bad: 0, uncertain: 1, good: 2 }

/**
 * Draws a scene into a group and applies frames straight to its nodes. It
 * knows nothing of the framework around it.
 */
export class Stage {
  private items = new Map<string, Drawn>()
  private targets: { element: string; prop: string }[] = []
  private dirty = new Set<Drawn>()

  constructor(
    private root: SVGGElement,
    private added: (item: Item) => void = () => {},
  ) {}

  /** Replaces everything. */
  load(scene: Scene): void {
    this.root.replaceChildren()
    this.items.clear()
    for (const e of scene.elements) this.add(e)
    this.targets = scene.bindings
  }

  /** Takes the bindings of a scene whose elements are drawn by set. */
  bind(scene: Scene): void {
    this.targets = scene.bindings
    const live = new Map<string, Set<string>>()
    for (const t of scene.bindings) (live.get(t.element) ?? live.set(t.element, new Set()).get(t.element)!).add(t.prop)
    for (const [id, d] of this.items) {
      for (const prop of Object.keys(d.levels)) {
        if (live.get(id)?.has(prop)) continue
        delete d.levels[prop]
        delete d.reasons[prop]
        d.shown[prop] = d.element.props[prop]
      }
      const fresh = scene.elements.find((e) => e.id === id)
      if (fresh) d.element.tag = fresh.tag
      this.paint(d)
    }
  }

  get(id: string): Item | undefined {
    return this.items.get(id)
  }

  /** Draws or redraws one element, keeping its live values and place. */
  set(e: SceneElement, order: string[]): void {
    const old = this.items.get(e.id)
    const live: Props = {}
    if (old) for (const p of Object.keys(old.levels)) live[p] = old.shown[p]
    const next = this.add(e, old?.node)
    if (old) {
      Object.assign(next.shown, live)
      next.levels = old.levels
      next.reasons = old.reasons
      e.tag ??= old.element.tag
      this.paint(next)
    }
    this.arrange(order)
  }

  remove(id: string): void {
    this.items.get(id)?.node.remove()
    this.items.delete(id)
  }

  ids(): string[] {
    return [...this.items.keys()]
  }

  /** Puts the nodes into an order, the lowest first. */
  arrange(order: string[]): void {
    let before: Element | null = null
    for (const id of order) {
      const node = this.items.get(id)?.node
      if (!node) continue
      const next: Element | null = before ? before.nextElementSibling : this.root.firstElementChild
      if (next !== node) this.root.insertBefore(node, next)
      before = node
    }
  }

  /** Applies a frame. */
  apply(frame: Frame): void {
    for (const [i, v, code] of frame.v ?? []) {
      const t = this.targets[i]
      const d = t && this.items.get(t.element)
      if (!d) continue
      const q = quality(code)
      d.levels[t.prop] = q.level
      d.reasons[t.prop] = q.reason
      d.shown[t.prop] = v === null ? (t.prop in d.element.props ? d.element.props[t.prop] : null) : v
      this.dirty.add(d)
    }
    for (const d of this.dirty) this.paint(d)
    this.dirty.clear()
  }

  /** Marks a button as held here. */
  hold(id: string, held: boolean): void {
    const d = this.items.get(id)
    if (!d) return
    d.state.held = held
    this.paint(d)
  }

  private add(e: SceneElement, instead?: SVGGElement): Drawn {
    const node = document.createElementNS('http://www.w3.org/2000/svg', 'g')
    if (instead) instead.replaceWith(node)
    else this.root.appendChild(node)
    node.dataset.element = e.id
    node.dataset.kind = e.kind
    const title = make(node, 'title')
    const update = (renderers[e.kind] ?? shapes.rect)(make(node, 'g'), e)
    // A large drawing carries a veiled corner: what lies on it shows for itself.
    const corner = backdrops.has(e.kind)
    const veil = make(node, 'rect', corner
      ? { x: e.w - 46, y: 6, width: 40, height: 24, fill: 'url(#veil)', stroke: 'var(--c-ink)', 'pointer-events': 'none' }
      : { x: -2, y: -2, width: e.w + 4, height: Math.max(8, e.h + 4), fill: 'url(#veil)', 'pointer-events': 'none' })
    const d: Drawn = { element: e, node, shown: { ...e.props }, levels: {}, reasons: {}, state: { level: 'good', held: false }, update, veil, title }
    this.items.set(e.id, d)
    attr(node, 'transform', `translate(${e.x} ${e.y})`)
    this.added(d)
    this.paint(d)
    return d
  }

  private paint(d: Drawn): void {
    let level = 'good'
    let reason = ''
    for (const prop in d.levels) {
      const l = d.levels[prop]!
      if (rank[l]! < rank[level]!) {
        level = l
        reason = d.reasons[prop] ?? ''
      }
    }
    d.state.level = level
    d.update(d.shown, d.state)
    show(d.node, d.shown.visible !== false || level === 'bad')
    show(d.veil, level === 'bad')
    d.title.textContent = level === 'good' ? '' : reason
    attr(d.node, 'data-quality', level)
    this.describe(d)
  }

  /** What a screen reader says of an element. */
  private describe(d: Drawn): void {
    const e = d.element
    if (e.kind !== 'button' && e.kind !== 'entry' && e.kind !== 'readout' && e.kind !== 'lamp') return
    const name = str(d.shown.caption) || e.name || e.tag?.path || ''
    const now = d.state.level === 'bad' ? '—' : str(d.shown.text)
    attr(d.node, 'aria-label', e.kind === 'button' ? name : `${name} ${now}`.trim())
    attr(d.node, 'role', e.kind === 'button' || e.kind === 'entry' ? 'button' : 'img')
    if (e.kind === 'button' || e.kind === 'entry') attr(d.node, 'aria-disabled', d.shown.enabled === false ? 'true' : 'false')
  }
}

/** Fills in the catalogue's defaults, as the server does for a scene. */
export function complete(id: string, e: { kind: string; name?: string; x: number; y: number; w: number; h: number; props?: Record<string, unknown> }, defaults: Record<string, unknown>): SceneElement {
  return { id, kind: e.kind, name: e.name, x: e.x, y: e.y, w: num(e.w), h: num(e.h), props: { ...defaults, ...e.props } }
}
