const NS = 'http://www.w3.org/2000/svg'

type Cached = SVGElement & { cached?: Record<string, string>; shown?: string }

/** Makes an SVG node below another. */
export function make<K extends keyof SVGElementTagNameMap>(
  parent: SVGElement,
  name: K,
  attrs: Record<string, string | number> = {},
): SVGElementTagNameMap[K] {
  const node = document.createElementNS(NS, name)
  for (const [k, v] of Object.entries(attrs)) node.setAttribute(k, String(v))
  parent.appendChild(node)
  return node
}

/** Sets an attribute unless it has that value already. */
export function attr(node: SVGElement, name: string, v: string | number): void {
  const cached = ((node as Cached).cached ??= {})
  const s = typeof v === 'number' ? String(Math.round(v * 100) / 100) : v
  if (cached[name] === s) return
  cached[name] = s
  node.setAttribute(name, s)
}

/** Sets the text of a node unless it has it already. */
export function text(node: SVGElement, s: string): void {
  if ((node as Cached).shown === s) return
  ;(node as Cached).shown = s
  write(node, s)
}

/** Writes into the text node that is there: a new one each time costs the browser far more. */
function write(node: SVGElement, s: string): void {
  const only = node.firstChild
  if (only instanceof Text && !only.nextSibling) only.data = s
  else node.textContent = s
}

/** Sets a property of a node's style unless it has that value already. */
export function style(node: SVGElement, name: string, v: string): void {
  const cached = ((node as Cached).cached ??= {})
  if (cached[name] === v) return
  cached[name] = v
  node.style.setProperty(name, v)
}

/** Sets a text cut to a width, by the mean width of a letter of our type. */
export function textWithin(node: SVGElement, s: string, width: number, size: number): void {
  const letters = Math.max(2, Math.floor(width / (size * 0.5)))
  text(node, s.length > letters ? s.slice(0, letters - 1).trimEnd() + '…' : s)
}

/** Shows or hides a node. */
export function show(node: SVGElement, yes: boolean): void {
  attr(node, 'display', yes ? 'inline' : 'none')
}

/** Where lines stand to a height: below it, about it, above it. */
export type Vertical = 'top' | 'middle' | 'bottom'

/** Sets a text with line breaks, each line below the other by a height of lines, and all of them to a height. */
export function lines(
  node: SVGTextElement,
  s: string,
  x: number,
  y: number,
  size: number,
  leading = 1.25,
  place: Vertical = 'middle',
): void {
  const key = `${s}\u0000${x}\u0000${y}\u0000${size}\u0000${leading}${place}`
  if ((node as Cached).shown === key) return
  ;(node as Cached).shown = key
  const all = s.split('\n')
  const step = size * leading
  const first =
    place === 'top'
      ? y + step / 2
      : place === 'bottom'
        ? y - (all.length - 0.5) * step
        : y - ((all.length - 1) / 2) * step
  if (all.length === 1) {
    write(node, s)
    node.setAttribute('x', String(x))
    node.setAttribute('y', String(first))
    return
  }
  node.replaceChildren()
  all.forEach((line, i) => {
    const t = make(node, 'tspan', { x, y: first + i * step })
    t.textContent = line
  })
}
