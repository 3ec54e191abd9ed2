import { api, ask, type Element } from '../../api/client'
import { useCatalogue } from '../../rail/catalogue'
import { useProject } from '../../rail/project'

type Kind = 'tag' | 'screen' | 'look' | 'style' | 'type'

/** What was copied: elements by their ids, and the names of what they refer to, so that another project can find its own. */
interface Copied {
  project: string
  elements: [string, Element][]
  names: Record<string, [Kind, string]>
}

const KEY = 'rr-copied'

/** Elements on the way from screen to screen, and from project to project. */
export function useClipboard() {
  const project = useProject()
  const catalogue = useCatalogue()

  /** The names of a kind of thing in this project, by id. */
  const named = (kind: Kind): { id: string; name: string }[] =>
    kind === 'screen'
      ? project.screens
      : kind === 'look'
        ? project.looks
        : kind === 'style'
          ? project.styles
          : kind === 'type'
            ? project.types
            : []

  /** Visits what an element refers to, and puts in its place what is given back. */
  function refer(e: Element, of: (kind: Kind, id: string) => string): Element {
    const out = structuredClone(e)
    const props = (out.props ?? {}) as Record<string, unknown>
    for (const [name, v] of Object.entries(props)) {
      const type = catalogue.prop(e.kind, name)?.type
      if (typeof v !== 'string' || !v) continue
      if (type === 'tag' || type === 'screen' || type === 'style' || type === 'type')
        props[name] = of(type, v)
    }
    if (out.tags) out.tags = out.tags.map((id) => of('tag', id)).filter(Boolean)
    if (out.args) out.args = Object.fromEntries(Object.entries(out.args).map(([k, v]) => [k, of('tag', v)]))
    if (out.states?.set) out.states.set = of('look', out.states.set)
    return out
  }

  async function copy(elements: [string, Element][]) {
    const wanted = new Map<string, Kind>()
    for (const [, e] of elements) refer(e, (kind, id) => (wanted.set(id, kind), id))
    const names: Copied['names'] = {}
    for (const [id, kind] of wanted) {
      if (id.startsWith('$')) continue
      const known = named(kind).find((x) => x.id === id)?.name
      const path =
        kind === 'tag'
          ? (
              await ask(
                api.GET('/api/projects/{project}/tags/{id}', { params: { path: { ...project.path, id } } }),
              ).catch(() => undefined)
            )?.path
          : undefined
      if (known ?? path) names[id] = [kind, (known ?? path)!]
    }
    localStorage.setItem(KEY, JSON.stringify({ project: project.id, elements, names } satisfies Copied))
  }

  /** What was copied, with this project's own things of the same names; those that it lacks are left empty, for the findings to tell. */
  async function take(): Promise<[string, Element][]> {
    const c = JSON.parse(localStorage.getItem(KEY) ?? '{"project":"","elements":[],"names":{}}') as Copied
    if (c.project === project.id) return c.elements
    const here: Record<string, string> = {}
    for (const [id, [kind, name]] of Object.entries(c.names)) {
      if (kind !== 'tag') here[id] = named(kind).find((x) => x.name === name)?.id ?? ''
      else {
        const page = await ask(
          api.GET('/api/projects/{project}/tags', {
            params: { path: project.path, query: { text: name, limit: 20 } },
          }),
        ).catch(() => undefined)
        here[id] = page?.rows?.find((r) => r.path === name)?.tag.id ?? ''
      }
    }
    return c.elements.map(([id, e]) => [
      id,
      refer(e, (_, ref) => here[ref] ?? (ref.startsWith('$') ? '' : ref)),
    ])
  }
  return { copy, take }
}
