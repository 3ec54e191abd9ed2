import { colour } from '../../theme'
import { type ElementKind, num, type Props, type Renderer, str } from '../element'
import { make, show } from '../svg'
import { type SceneElement } from '../../live/live'

/** Brings the bound parts of a drawing to their live values. */
function parts(holder: SVGGElement, p: Props) {
  for (const key in p) {
    const m = /^part:([\w.-]+)\/(\w+)$/.exec(key)
    const node = m && holder.querySelector<SVGElement>(`[data-part="${m[1]}"]`)
    if (!node || p[key] === null) continue
    if (m[2] === 'visible') show(node, p[key] !== false)
    else if (m[2] === 'opacity') node.style.opacity = String(num(p[key], 100) / 100)
    else node.style.setProperty(m[2]!, colour(p[key]))
  }
}

/** What was fetched, by its address. */
const pictures = new Map<string, Promise<{ type: string; data: string; w: number; h: number } | undefined>>()

async function fillPicture(
  holder: SVGGElement,
  from: string,
  e: SceneElement,
  whole: boolean,
  done: () => void,
) {
  if (!pictures.has(from))
    pictures.set(
      from,
      fetch(from)
        .then((r) => (r.ok ? r.json() : undefined))
        .catch(() => undefined),
    )
  const got = await pictures.get(from)
  if (!got) return
  if (got.type !== 'image/svg+xml') {
    make(holder, 'image', {
      width: e.w,
      height: e.h,
      href: `data:${got.type};base64,${got.data}`,
      preserveAspectRatio: whole ? 'xMidYMid meet' : 'none',
    })
    return
  }
  // The server has cleaned it; what is taken over is the drawing alone.
  const svg = new DOMParser().parseFromString(got.data, 'image/svg+xml').documentElement
  const inner = document.importNode(svg, true) as unknown as SVGSVGElement
  inner.setAttribute('width', String(e.w))
  inner.setAttribute('height', String(e.h))
  inner.setAttribute('preserveAspectRatio', whole ? 'xMidYMid meet' : 'none')
  for (const n of inner.querySelectorAll('[id]')) n.setAttribute('data-part', n.id)
  holder.appendChild(inner)
  done()
}

const draw: Renderer = (g, e, around) => {
  make(g, 'rect', { width: e.w, height: e.h, fill: 'transparent' })
  const holder = make(g, 'g')
  const empty = make(g, 'path', {
    d: `M0 0H${e.w}V${e.h}H0ZM0 ${e.h}L${e.w * 0.35} ${e.h * 0.45}L${e.w * 0.6} ${e.h * 0.75}L${e.w * 0.75} ${e.h * 0.6}L${e.w} ${e.h}`,
    fill: 'none',
    stroke: 'var(--c-quiet)',
    'stroke-dasharray': '4 4',
  })
  let shown = ''
  let last: Props = {}
  return (p) => {
    last = p
    const id = str(p.picture)
    show(empty, !id)
    if (shown !== id) {
      shown = id
      holder.replaceChildren()
      if (id) void fillPicture(holder, around.picture(id), e, p.fit !== 'stretch', () => parts(holder, last))
    }
    parts(holder, p)
  }
}

const kind: ElementKind = {
  name: 'picture',
  draw,
}
export default kind
