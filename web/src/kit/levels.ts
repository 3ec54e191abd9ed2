import { graphlib, layout } from '@dagrejs/dagre'

export interface Node {
  id: string
  w: number
  h: number
}
export interface Link {
  from: string
  to: string
}
export interface Drawn<L extends Link> {
  key: string
  /** The path of an SVG curve that passes no box. */
  d: string
  /** What it stands for: more than one where they lead both ways. */
  links: L[]
  /** Which ends have an arrow. */
  ahead: boolean
  back: boolean
}

/** How many steps each node is away from the roots; those that are not reached are left out. */
function depths(roots: string[], links: Link[]): Map<string, number> {
  const next = new Map<string, string[]>()
  for (const l of links) next.set(l.from, [...(next.get(l.from) ?? []), l.to])
  const depth = new Map<string, number>()
  for (const root of roots) {
    if (depth.has(root)) continue
    depth.set(root, 0)
    const queue = [root]
    for (const id of queue)
      for (const to of next.get(id) ?? [])
        if (!depth.has(to)) {
          depth.set(to, depth.get(id)! + 1)
          queue.push(to)
        }
  }
  return depth
}

interface Point {
  x: number
  y: number
}
/** A box where it was laid, by its middle. */
interface Laid extends Point {
  width: number
  height: number
}

/**
 * A line from one box's right side to another's left: it bends in the gaps
 * between levels alone, and crosses the levels between on the lanes kept free.
 */
function lane(a: Laid, b: Laid, between: Point[], levels: Map<number, number>): string {
  const round = (n: number) => Math.round(n * 10) / 10
  let at = { x: a.x + a.width / 2, y: a.y }
  let d = `M${round(at.x)} ${round(at.y)}`
  const bend = (to: Point) => {
    const middle = round((at.x + to.x) / 2)
    d += `C${middle} ${round(at.y)} ${middle} ${round(to.y)} ${round(to.x)} ${round(to.y)}`
    at = to
  }
  for (const p of between) {
    const half = levels.get(Math.round(p.x))
    if (half === undefined || p.x <= at.x || p.x >= b.x - b.width / 2) continue
    bend({ x: p.x - half, y: p.y })
    at = { x: p.x + half, y: p.y }
    d += `H${round(at.x)}`
  }
  bend({ x: b.x - b.width / 2, y: b.y })
  return d
}

/**
 * Lays boxes out by levels from left to right: roots first, what they lead to
 * after them. Links between two boxes are one line; a line passes no box.
 */
export function byLevels<L extends Link>(
  nodes: Node[],
  links: L[],
  roots: string[],
  gap = { level: 80, box: 24 },
) {
  const there = new Map(nodes.map((n) => [n.id, n]))
  const depth = depths(
    roots.filter((r) => there.has(r)),
    links,
  )
  const rank = new Map([...depth.keys()].map((id, i) => [id, i]))
  const graph = new graphlib.Graph()
  graph.setGraph({ rankdir: 'LR', ranksep: gap.level, nodesep: gap.box, marginx: 24, marginy: 24 })
  for (const n of nodes) if (depth.has(n.id)) graph.setNode(n.id, { width: n.w, height: n.h })

  const lines = new Map<string, { a: string; b: string; links: L[]; ahead: boolean; back: boolean }>()
  for (const l of links) {
    const [from, to] = [depth.get(l.from), depth.get(l.to)]
    if (from === undefined || to === undefined || l.from === l.to || !there.has(l.to)) continue
    const forward = from < to || (from === to && rank.get(l.from)! < rank.get(l.to)!)
    const [a, b] = forward ? [l.from, l.to] : [l.to, l.from]
    const line = lines.get(a + ' ' + b) ?? { a, b, links: [], ahead: false, back: false }
    line.links.push(l)
    if (forward) line.ahead = true
    else line.back = true
    lines.set(a + ' ' + b, line)
  }
  for (const { a, b } of lines.values()) graph.setEdge(a, b, {})
  layout(graph)

  const laid = (id: string) => graph.node(id) as Laid
  const spots = new Map<string, Point>()
  const levels = new Map<number, number>() // half the width of each, by its middle
  for (const id of graph.nodes()) {
    const n = laid(id)
    spots.set(id, { x: n.x - n.width / 2, y: n.y - n.height / 2 })
    levels.set(Math.round(n.x), Math.max(levels.get(Math.round(n.x)) ?? 0, n.width / 2))
  }
  const drawn: Drawn<L>[] = [...lines].map(([key, line]) => {
    const { points } = graph.edge(line.a, line.b) as { points: Point[] }
    const d = lane(laid(line.a), laid(line.b), points, levels)
    return { key, d, links: line.links, ahead: line.ahead, back: line.back }
  })
  const size = graph.graph() as { width: number; height: number }
  const empty = !spots.size // nothing has no size that could be told
  return { spots, lines: drawn, width: empty ? 0 : size.width, height: empty ? 0 : size.height }
}
