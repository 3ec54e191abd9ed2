import { reactive, ref } from 'vue'

/** What is told of an edit: things as kind/id, whether paths may be others, and whether who names whom may be. */
export interface Told {
  things?: string[]
  moves?: boolean
  names?: boolean
}

/** More things than this are not told one by one. */
export const MOST_TOLD = 200

/** Counts what changed by kind, so that each asks again for what it shows and for nothing else. */
export function useVersions() {
  const counts = reactive(new Map<string, number>())
  const whole = ref(0)
  let heard = new Set<string>()
  let all = false
  const count = (what: string) => counts.set(what, (counts.get(what) ?? 0) + 1)

  /** Notes what an edit touched; it counts with the next settle. */
  function hear(told: Told) {
    if (!told.things?.length || told.things.length >= MOST_TOLD) {
      all = true
      return
    }
    for (const thing of told.things) heard.add(thing).add(thing.split('/')[0]!)
    if (told.moves) heard.add('paths')
    if (told.names) heard.add('names')
  }
  /** Counts what was heard; everything where it is not known what changed. */
  function settle(everything: boolean) {
    if (everything || all) whole.value++
    else heard.forEach(count)
    heard = new Set()
    all = false
  }
  /**
   * A number that grows as something of these changes: a kind, a thing as kind/id, `paths` (what
   * things are called and where they stand), `names` (who names whom).
   */
  const versionOf = (...what: string[]) => what.reduce((sum, w) => sum + (counts.get(w) ?? 0), whole.value)
  return { hear, settle, versionOf }
}
