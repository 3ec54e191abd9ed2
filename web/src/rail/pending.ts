import { shallowRef } from 'vue'
import type { Op } from '../api/client'

// Edits that were sent and that what is shown does not have yet. They are laid
// over it, so that the next edit is made of what was just typed and not of what
// the server said before.

/** The value of a place in a document, set in a copy; undefined takes it out. */
export function put<T>(doc: T, path: string, value: unknown): T {
  if (path === '') return value as T
  const cut = path.indexOf('/', 1)
  const key = (cut < 0 ? path.slice(1) : path.slice(1, cut)).replaceAll('~1', '/').replaceAll('~0', '~')
  const rest = cut < 0 ? '' : path.slice(cut)
  if (Array.isArray(doc)) {
    const next = [...doc]
    if (rest === '' && value === undefined) next.splice(Number(key), 1)
    else next[Number(key)] = put(next[Number(key)], rest, value)
    return next as T
  }
  const next = { ...(doc as Record<string, unknown>) }
  next[key] = put(next[key], rest, value)
  if (next[key] === undefined) delete next[key]
  return next as T
}

/**
 * A document under some edits; only those to it are looked at. What is shown may
 * hold more than the document, as a row of a list does: then an edit that sets
 * the whole thing is left out, as it does not know the rest.
 */
export function over<T>(doc: T, kind: string, id: string, ops: readonly Op[], row = false): T {
  let out = doc
  for (const o of ops) {
    if (o.kind !== kind || o.id !== id) continue
    if (o.path !== '') out = put(out, o.path, o.value)
    else if (!row && o.value !== undefined) out = { ...(o.value as T), id }
  }
  return out
}

interface Sent {
  ops: Op[]
  began: number
  took: number // ms until it was answered
  revision?: number // of the draft that has it, once it is done
}

export function usePending() {
  const sent = shallowRef<Sent[]>([])
  const take = (s: Sent) => (sent.value = sent.value.filter((x) => x !== s))
  /** The revision that the project's lists are of. */
  let seen = -1
  /** The lists have it: it stays for as long as the thing itself takes to be asked for anew. */
  const leave = (s: Sent) => window.setTimeout(() => take(s), 3 * s.took + 100)
  return {
    ops: () => sent.value.flatMap((s) => s.ops),
    begin(ops: Op[]): Sent {
      const s: Sent = { ops, began: performance.now(), took: 0 }
      sent.value = [...sent.value, s]
      return s
    },
    /** It is done, and lies over what is shown until the lists are of that revision, however long they take. */
    done(s: Sent, revision: number) {
      s.revision = revision
      s.took = performance.now() - s.began
      if (seen >= revision) leave(s)
    },
    /** The lists are of a revision now. */
    saw(revision: number) {
      const before = seen
      seen = revision
      for (const s of sent.value)
        if (s.revision !== undefined && s.revision > before && s.revision <= revision) leave(s)
    },
    /** It was refused: what was typed stands until the refusal shows beside it. */
    refuse: (s: Sent) => window.setTimeout(() => take(s)),
    /** Another project begins with nothing. */
    forget() {
      sent.value = []
      seen = -1
    },
    /** A step back changes what was done to what it was. */
    settle: () => (sent.value = sent.value.filter((s) => s.revision === undefined)),
  }
}
