import type { Frame, Scene, SceneElement } from '../live/live'
import { quality } from '../live/live'
import { colour } from '../theme'
import { num, str, type Around, type ElementKind, type Item, type Props, type Update } from './element'
import { type AlarmMark, type Box, drawFlag, flagPlace, flagWidth } from './flag'
import { acts, kindOf } from './registry'
import { attr, make, show, style, text } from './svg'

interface Drawn extends Item {
  kind: ElementKind
  drawing: SVGGElement
  content: SVGGElement // holds what lies in it
  update: Update
  mistake?: SVGElement
  veil?: SVGElement
  mark?: SVGElement // of an uncertain or a held value
  flag?: { node: SVGElement; sign: string }
  ring?: SVGElement
  title: SVGTitleElement
  live: Props
}

const places = new Set(['x', 'y', 'w', 'h', 'angle'])

/** Nothing alternates more than twice a second (WCAG 2.2, 2.3.1 allows three flashes). */
const LEAST_BLINK = 0.5

/** More layers than these cost more than they save. */
const MOST_LAYERS = 8

const rank: Record<string, number> = { bad: 0, uncertain: 1, held: 2, good: 3 }

const drawnOf = (e: SceneElement) => JSON.stringify([e.tag, e.rows, e.pens])

/**
 * Draws a scene into a group and applies frames straight to its nodes. It
 * knows nothing of the framework around it.
 */
export class Stage {
  private items = new Map<string, Drawn>()
  private targets: { element: string; prop: string }[] = []
  private dirty = new Set<Drawn>()
  /** The newest value of each binding: an element may be drawn after its value came. */
  private newest: [unknown, number | undefined][] = []
  /** What lies within elements that are not drawn yet: a scene may come before the document that it is of. */
  private early: SceneElement[] = []
  /** The bindings whose values came during a pause. */
  private waiting?: Set<number>

  constructor(
    private root: SVGGElement,
    private around: Around,
    private added: (item: Item) => void = () => {},
    /** Whether an engineer looks at it, to whom a mistake is not a bad value. */
    private editing = false,
  ) {}

  /** Replaces everything. */
  load(scene: Scene): void {
    this.root.replaceChildren()
    this.items.clear()
    for (const e of scene.elements) this.add(e)
    this.targets = scene.bindings
    this.newest = []
  }

  /** Takes the bindings of a scene whose own elements are drawn by set; what lies within them is drawn anew. */
  bind(scene: Scene): void {
    this.targets = scene.bindings
    this.newest = []
    this.waiting?.clear()
    this.early = []
    for (const [id, d] of this.items)
      if (id.includes('/')) {
        d.node.remove()
        this.items.delete(id)
      }
    const live = new Map<string, Set<string>>()
    for (const t of scene.bindings)
      (live.get(t.element) ?? live.set(t.element, new Set()).get(t.element)!).add(t.prop)
    for (const fresh of scene.elements) {
      const d = this.items.get(fresh.id)
      if (!d) {
        if (!fresh.id.includes('/')) continue
        if (this.items.has(fresh.in!)) this.add(fresh)
        else this.early.push(fresh)
        continue
      }
      for (const prop of Object.keys(d.levels)) {
        if (live.get(fresh.id)?.has(prop)) continue
        delete d.levels[prop]
        delete d.reasons[prop]
        d.mistakes.delete(prop)
        delete d.live[prop]
      }
      // What is drawn of a tag alone: its ends, its alarms' limits, a table's rows, a trend's pens.
      const drawn = drawnOf(d.element)
      Object.assign(d.element, {
        tag: fresh.tag,
        looks: fresh.looks,
        content: fresh.content,
        rows: fresh.rows,
        pens: fresh.pens,
        tabs: fresh.tabs,
        problem: fresh.problem,
      })
      if (drawnOf(d.element) !== drawn) this.redraw(d)
      this.scale(d)
      this.merge(d)
      this.paint(d)
    }
  }

  get(id: string): Item | undefined {
    return this.items.get(id)
  }

  /** Draws or redraws one element, keeping its live values, what lies in it and its place. */
  set(e: SceneElement, order: string[]): void {
    const old = this.items.get(e.id)
    const next = this.add(e, old)
    if (old) {
      next.live = old.live
      next.levels = old.levels
      next.reasons = old.reasons
      next.mistakes = old.mistakes
      e.tag ??= old.element.tag
      e.looks ??= old.element.looks
      e.content ??= old.element.content
      e.rows ??= old.element.rows
      e.pens ??= old.element.pens
      if (e.rows || e.pens) this.redraw(next)
      while (old.content.firstChild) next.content.appendChild(old.content.firstChild)
      this.scale(next)
      this.merge(next)
      this.paint(next)
    } else {
      const within = (id: string) => id.startsWith(e.id + '/')
      for (const inner of this.early.filter((x) => within(x.id))) this.add(inner)
      this.early = this.early.filter((x) => !within(x.id))
      this.apply({
        v: this.targets.flatMap((t, i) =>
          (t.element === e.id || within(t.element)) && this.newest[i]
            ? [[i, ...this.newest[i]!] as [number, unknown, number?]]
            : [],
        ),
      })
    }
    this.arrange(order)
  }

  remove(id: string): void {
    this.items.get(id)?.node.remove()
    this.items.delete(id)
    for (const inner of [...this.items.keys()]) if (inner.startsWith(id + '/')) this.items.delete(inner)
  }

  ids(): string[] {
    return [...this.items.keys()].filter((id) => !id.includes('/'))
  }

  /** Puts the nodes into an order, the lowest first; each lies in what holds it. */
  arrange(order: string[]): void {
    const last = new Map<Element, Element>()
    for (const id of order) {
      const d = this.items.get(id)
      if (!d) continue
      const parent = this.parent(d.element)
      const before = last.get(parent)
      const next: Element | null = before ? before.nextElementSibling : parent.firstElementChild
      if (next !== d.node) parent.insertBefore(d.node, next)
      last.set(parent, d.node)
    }
  }

  /**
   * Takes elements out to be moved. Neighbours move as one; where that makes
   * too many pieces, all lie in front meanwhile. Each piece is a layer of its
   * own, so that nothing else is painted anew. Returns what shifts them; drop
   * puts them back into their places.
   */
  carry(ids: string[]): { shift: (dx: number, dy: number) => void; drop: () => void } {
    this.pause()
    const wanted = new Set(ids)
    const top = [...this.root.querySelectorAll<SVGGElement>('g[data-element]')].filter(
      (n) =>
        wanted.has(n.dataset.element!) &&
        !wanted.has(n.parentElement!.closest<SVGGElement>('g[data-element]')?.dataset.element ?? ''),
    )
    let runs: SVGGElement[][] = []
    for (const node of top) {
      const run = runs.at(-1)
      if (run && run.at(-1)!.nextElementSibling === node) run.push(node)
      else runs.push([node])
    }
    const back =
      runs.length > MOST_LAYERS && top.every((n) => n.parentNode === this.root)
        ? [...this.root.children]
        : undefined
    if (back) runs = [top]
    const layers = runs.map((run) => {
      const layer = document.createElementNS('http://www.w3.org/2000/svg', 'g')
      layer.style.willChange = 'transform'
      if (back) this.root.appendChild(layer)
      else run[0]!.before(layer)
      layer.append(...run)
      return layer
    })
    return {
      shift: (dx, dy) => layers.forEach((l) => (l.style.transform = `translate(${dx}px, ${dy}px)`)),
      drop: () => {
        layers.forEach((l) => l.replaceWith(...l.children))
        if (back) this.root.append(...back.filter((n) => n.isConnected))
        this.resume()
      },
    }
  }

  /** While things are dragged values stand still, as the pointer has to be followed; the newest of each shows afterwards. */
  pause(): void {
    this.waiting = new Set()
  }
  resume(): void {
    const all = [...(this.waiting ?? [])]
    this.waiting = undefined
    this.apply({ v: all.map((i) => [i, ...this.newest[i]!]) })
  }

  /** Applies a frame. */
  apply(frame: Frame): void {
    for (const [i, v, code] of frame.v ?? []) {
      this.newest[i] = [v, code]
      if (this.waiting) {
        this.waiting.add(i)
        continue
      }
      const t = this.targets[i]
      const d = t && this.items.get(t.element)
      if (!d) continue
      const q = quality(code)
      d.levels[t.prop] = q.level
      d.reasons[t.prop] = q.reason
      if (q.mistake) d.mistakes.add(t.prop)
      else d.mistakes.delete(t.prop)
      if (v === null) {
        delete d.live[t.prop]
        if (d.element.looks) this.merge(d)
        else d.shown[t.prop] = d.element.props[t.prop] ?? null
      } else {
        d.live[t.prop] = v
        if (t.prop === 'look') this.merge(d)
        else d.shown[t.prop] = v
      }
      this.dirty.add(d)
    }
    for (const d of this.dirty) this.paint(d)
    this.dirty.clear()
  }

  /** Shows a value in place of a live one, for looking only; undefined takes it away. */
  pose(id: string, prop: string, v: unknown): void {
    const d = this.items.get(id)
    if (!d) return
    if (v === undefined) delete d.live[prop]
    else d.live[prop] = v
    this.merge(d)
    this.paint(d)
  }

  /** Shows one of a tab set's tabs, counted from 1. */
  turn(id: string, tab: number): void {
    const d = this.items.get(id)
    if (!d) return
    d.live.tab = tab
    this.merge(d)
    this.paint(d)
  }

  /** Shows at each element the worst alarm of its tag; by the tag's id. */
  alarms(worst: Map<string, AlarmMark>): void {
    let words: DOMRect[] | undefined
    for (const d of this.items.values()) {
      const mark = d.element.tag && worst.get(d.element.tag.id)
      const sign = mark ? JSON.stringify(mark) : ''
      if (sign === (d.flag?.sign ?? '')) continue
      d.flag?.node.remove()
      d.flag = undefined
      if (!mark) continue
      words ??= this.words()
      const [x, y] = this.flagSpot(d, flagWidth(mark), words)
      const node = drawFlag(d.node, mark)
      attr(node, 'transform', `translate(${x} ${y})`)
      d.flag = { node, sign }
    }
  }

  /** Where words stand on the page. */
  private words(): DOMRect[] {
    const out: DOMRect[] = []
    for (const t of this.root.querySelectorAll('text')) {
      const box = t.getBoundingClientRect()
      if (box.width > 0) out.push(box)
    }
    return out
  }

  private flagSpot(d: Drawn, flag: number, words: DOMRect[]): [number, number] {
    const at = d.node.getScreenCTM()?.inverse()
    const page = this.root.ownerSVGElement?.getBoundingClientRect()
    const { w, h } = d.element
    if (!at || !page) return flagPlace(flag, w, h, [], [-Infinity, -Infinity, Infinity, Infinity])
    const here = (r: DOMRect): Box => {
      const [a, b] = [
        new DOMPoint(r.left, r.top).matrixTransform(at),
        new DOMPoint(r.right, r.bottom).matrixTransform(at),
      ]
      return [Math.min(a.x, b.x), Math.min(a.y, b.y), Math.max(a.x, b.x), Math.max(a.y, b.y)]
    }
    return flagPlace(flag, w, h, words.map(here), here(page))
  }

  /** Draws a ring about the elements of a tag, so that they are found; an empty id takes it away. */
  ring(tag: string): void {
    for (const d of this.items.values()) {
      d.ring?.remove()
      d.ring = undefined
      if (!tag || d.element.tag?.id !== tag) continue
      const { w, h } = d.element
      d.ring = make(d.node, 'rect', {
        x: -7,
        y: -7,
        width: w + 14,
        height: h + 14,
        rx: 8,
        class: 'found',
        fill: 'none',
        'pointer-events': 'none',
      })
    }
  }

  /** Marks a button as held here. */
  hold(id: string, held: boolean): void {
    const d = this.items.get(id)
    if (!d) return
    d.state.held = held
    this.paint(d)
  }

  private parent(e: SceneElement): SVGGElement {
    return (e.in ? this.items.get(e.in)?.content : undefined) ?? this.root
  }

  private add(e: SceneElement, instead?: Drawn): Drawn {
    const node = document.createElementNS('http://www.w3.org/2000/svg', 'g')
    if (instead) instead.node.replaceWith(node)
    else this.parent(e).appendChild(node)
    node.dataset.element = e.id
    node.dataset.kind = e.kind
    const kind = kindOf(e.kind)
    const title = make(node, 'title')
    const drawing = make(node, 'g')
    const d: Drawn = {
      element: e,
      node,
      drawing,
      content: make(node, 'g'),
      shown: { ...e.props },
      live: {},
      levels: {},
      reasons: {},
      mistakes: new Set(),
      state: { level: 'good', held: false },
      kind,
      update: kind.draw(drawing, e, this.around),
      title,
    }
    this.items.set(e.id, d)
    if (e.tab) d.live.cell = e.tab
    this.scale(d)
    this.added(d)
    this.paint(d)
    return d
  }

  private redraw(d: Drawn): void {
    d.drawing.replaceChildren()
    d.update = d.kind.draw(d.drawing, d.element, this.around)
    if (d.kind.page) this.added(d)
  }

  /** Fits what an element holds into it. */
  private scale(d: Drawn): void {
    const { content, w, h } = d.element
    if (!content) return attr(d.content, 'transform', '')
    const k = Math.min(w / content.w, h / content.h)
    attr(
      d.content,
      'transform',
      `translate(${(w - content.w * k) / 2} ${(h - content.h * k) / 2}) scale(${k})`,
    )
  }

  /** Brings what is shown to the element's own properties, its look and the live values, in this order. */
  private merge(d: Drawn): void {
    const look = typeof d.live.look === 'number' ? d.element.looks?.[d.live.look] : undefined
    d.shown = { ...d.element.props, ...look, ...d.live }
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
    const p = d.shown
    d.state.level = level
    this.place(d)
    d.update(p, d.state)
    show(d.node, (p.visible !== false || level === 'bad') && this.inFront(d))
    attr(d.node, 'opacity', level === 'bad' ? 1 : share100(p.opacity))
    this.tint(d, p)
    // In the editor a mistake of the engineer is no bad value: it has a look of its own.
    const mistaken = this.editing && d.mistakes.size > 0
    const veiled = !mistaken && (level === 'bad' || !!d.element.problem)
    if (veiled) d.veil ??= this.veil(d)
    if (d.veil) show(d.veil, veiled)
    if (mistaken) d.mistake ??= this.mistake(d)
    if (d.mistake) show(d.mistake, mistaken)
    const marked =
      (level === 'held' || level === 'uncertain') &&
      !(d.kind.speaks && level === 'uncertain') &&
      !d.kind.holds
    if (marked)
      d.mark ??= make(d.node, 'path', { fill: 'none', stroke: 'var(--c-ink)', 'pointer-events': 'none' })
    if (d.mark) {
      show(d.mark, marked)
      const { w, h } = d.element
      attr(
        d.mark,
        'd',
        level === 'held' ? `M3 -3H-4V${h + 3}H3M${w - 3} -3H${w + 4}V${h + 3}H${w - 3}` : `M0 ${h + 3}H${w}`,
      )
      attr(d.mark, 'stroke-width', level === 'held' ? 3.5 : 2)
      attr(d.mark, 'stroke-dasharray', level === 'held' ? 'none' : '2 3')
    }
    text(d.title, d.element.problem ?? (level === 'good' ? '' : reason))
    attr(d.node, 'data-quality', level)
    this.describe(d)
  }

  private inFront(d: Drawn): boolean {
    if (!d.element.tab || !d.element.in) return true
    return num(this.items.get(d.element.in)?.shown.tab, 1) === d.element.tab
  }

  private place(d: Drawn): void {
    const e = d.element
    const p = d.shown
    const w = num(p.w, e.w)
    const h = num(p.h, e.h)
    if ('w' in d.live || 'h' in d.live) {
      // A live size is drawn, not scaled: lines keep their width.
      if (
        w !== (d.drawing.dataset.w ? Number(d.drawing.dataset.w) : e.w) ||
        h !== (d.drawing.dataset.h ? Number(d.drawing.dataset.h) : e.h)
      ) {
        d.drawing.replaceChildren()
        d.update = d.kind.draw(d.drawing, { ...e, w: Math.max(0, w), h: Math.max(0, h) }, this.around)
        d.drawing.dataset.w = String(w)
        d.drawing.dataset.h = String(h)
      }
    }
    const angle = num(p.angle, e.angle ?? 0)
    const at = d.kind.gathers ? '' : `translate(${num(p.x, e.x)} ${num(p.y, e.y)})`
    attr(
      d.node,
      'transform',
      angle
        ? d.kind.gathers
          ? `rotate(${angle} ${e.x + w / 2} ${e.y + h / 2})`
          : `${at} rotate(${angle} ${w / 2} ${h / 2})`
        : at,
    )
  }

  private tint(d: Drawn, p: Props): void {
    const tint = str(p.tint, 'none')
    const blink = p.blink === true
    attr(d.node, 'class', blink ? 'alternating' : '')
    const other = str(p.blinkTint, 'none')
    attr(d.drawing, 'filter', tint === 'none' ? 'none' : filterOf(this.root, tint))
    if (d.kind.holds) attr(d.content, 'filter', tint === 'none' ? 'none' : filterOf(this.root, tint))
    if (!blink) return
    style(d.node, '--blink-filter', other !== 'none' ? filterOf(this.root, other) : 'none')
    style(d.node, '--blink-opacity', other === 'none' ? '0.25' : '1')
    style(d.node, '--blink-every', Math.max(LEAST_BLINK, Math.min(60, num(p.blinkEvery, 1))) + 's')
  }

  private veil(d: Drawn): SVGElement {
    const { w, h } = d.element
    // A large drawing carries a veiled corner: what lies on it shows for itself.
    return make(
      d.node,
      'rect',
      d.kind.backdrop || (d.kind.holds && !d.element.problem)
        ? {
            x: w - 46,
            y: 6,
            width: 40,
            height: 24,
            fill: 'url(#veil)',
            stroke: 'var(--c-ink)',
            'pointer-events': 'none',
          }
        : {
            x: -2,
            y: -2,
            width: w + 4,
            height: Math.max(8, h + 4),
            fill: 'url(#veil)',
            'pointer-events': 'none',
          },
    )
  }

  /** A formula that cannot be: a broken outline and a struck fx. */
  private mistake(d: Drawn): SVGElement {
    const { w, h } = d.element
    const g = make(d.node, 'g', { class: 'mistake', 'pointer-events': 'none' })
    make(g, 'rect', {
      x: -4,
      y: -4,
      width: w + 8,
      height: h + 8,
      fill: 'none',
      stroke: 'var(--c-error)',
      'stroke-width': 2,
      'stroke-dasharray': '7 4',
    })
    make(g, 'rect', { x: -4, y: -20, width: 26, height: 16, fill: 'var(--c-error)' })
    make(g, 'text', {
      x: 9,
      y: -8,
      'font-size': 12,
      'font-style': 'italic',
      'font-weight': 700,
      'text-anchor': 'middle',
      'text-decoration': 'line-through',
      fill: 'var(--c-sheet)',
    }).textContent = 'fx'
    return g
  }

  /** What a screen reader says of an element; the texts of what only shows are read as they stand. */
  private describe(d: Drawn): void {
    const e = d.element
    const pressed = acts(d.kind) || !!e.opens
    if (!pressed && !d.kind.reads) return
    const name = str(d.shown.caption) || e.name || e.tag?.path || ''
    attr(d.node, 'role', d.kind.role ?? (pressed ? 'button' : 'group'))
    const now = !pressed || d.kind.silent ? '' : d.state.level === 'bad' ? '—' : str(d.shown.text)
    attr(d.node, 'aria-label', `${name} ${now}`.trim())
    if (d.kind.role === 'switch') attr(d.node, 'aria-checked', d.shown.on === true ? 'true' : 'false')
    if (pressed) attr(d.node, 'aria-disabled', d.shown.enabled === false ? 'true' : 'false')
  }
}

const share100 = (v: unknown): number => Math.max(0, Math.min(100, num(v, 100))) / 100

/** A filter that lays a colour over a drawing; made where it is first used. */
function filterOf(root: SVGElement, tint: string): string {
  const id = 'tint-' + tint.replace(/\W/g, 'x')
  const svg = root.ownerSVGElement
  if (svg && !svg.getElementById(id)) {
    const filter = make(svg.querySelector('defs') ?? svg, 'filter', { id })
    // A colour that says how much it covers is laid on as strongly as it says.
    const own = /^#.{8}$|%$/.test(tint)
    make(filter, 'feFlood', { 'flood-color': colour(tint), 'flood-opacity': own ? 1 : 0.55, result: 'flood' })
    make(filter, 'feComposite', { in: 'flood', in2: 'SourceGraphic', operator: 'in', result: 'tint' })
    const merge = make(filter, 'feMerge')
    make(merge, 'feMergeNode', { in: 'SourceGraphic' })
    make(merge, 'feMergeNode', { in: 'tint' })
  }
  return `url(#${id})`
}

/** Fills in the catalogue's defaults, as the server does for a scene. */
export function complete(
  id: string,
  e: {
    kind: string
    name?: string
    x: number
    y: number
    w: number
    h: number
    angle?: number
    group?: string
    points?: number[] | null
    tabs?: { title: string }[] | null
    props?: Record<string, unknown>
  },
  defaults: Record<string, unknown>,
): SceneElement {
  return {
    id,
    kind: e.kind,
    name: e.name,
    in: e.group,
    x: e.x,
    y: e.y,
    w: num(e.w),
    h: num(e.h),
    angle: e.angle,
    points: e.points ?? undefined,
    tabs: e.tabs?.map((t) => t.title),
    props: { ...defaults, ...e.props },
  }
}

/** Whether a property is a place: x, y, w, h or angle. */
export const isPlace = (prop: string): boolean => places.has(prop)
