import { useCatalogue } from './catalogue'
import { useProject } from './project'
import { stops } from './stops'

/** A thing of the project, or with a place in it (a JSON pointer) a part of it. */
interface Thing {
  kind: string
  id: string
  place?: string
  /** Id of what has it, of what the plant keeps: the book of a recipe, the log of a span. */
  in?: string
}

/** What the plant keeps opens in what has it, at its stop. */
const kept: Record<string, { name: string; query: (id: string) => Record<string, string> }> = {
  recipe: { name: 'recipes', query: (id) => ({ part: 'values', recipe: id }) },
  span: { name: 'history', query: (id) => ({ span: id }) },
}

/** Where things are worked on, as the kinds say it: links, lists and the finder all ask here. */
export function useWhere() {
  const project = useProject()
  const catalogue = useCatalogue()
  const kindOf = (kind: string) => catalogue.things.find((k) => k.name === kind)

  /** The stop where things of a kind are worked on. */
  const stopOf = (kind: string) => kindOf(kind)?.stop ?? stops[0].name

  /** The way to a thing: its stop, with the thing and the part of it open where the stop can. */
  function where(thing: Thing, stop?: string) {
    const within = kept[thing.kind]
    if (within) {
      const params = { project: project.id, id: thing.in }
      return { name: within.name, params, query: within.query(thing.id) }
    }
    const kind = kindOf(thing.kind)
    const part =
      kind?.within && thing.place?.startsWith(kind.within)
        ? thing.place.slice(kind.within.length).split('/')[0]
        : undefined
    return {
      name: stop ?? stopOf(thing.kind),
      params: {
        project: project.id,
        id: kind?.opens ? thing.id : undefined,
        ...(kind?.within ? { element: part } : {}),
      },
    }
  }

  /** Whether things of a kind are called by paths. */
  const isPath = (kind: string) => !!kindOf(kind)?.paths
  return { where, stopOf, isPath }
}
