import type { Marks } from './useMarks'

/** Something that happened, at a moment of the axis. */
export interface Mark {
  at: number
  /** When it ended; the same for what has no length. */
  to: number
  kind: 'alarm' | 'entry' | 'note'
  /** Of an alarm: 0 critical to 3 low. */
  priority: number
  name: string
  text: string
  person: string
}

/** Marks that lie so close that they are one on the axis, the worst first. */
export interface Cluster {
  at: number
  marks: Mark[]
}

/** All that happened, in order of time. */
export function inOrder(m: Marks, now: number): Mark[] {
  return [
    ...m.alarms.map((a) => ({
      at: a.came,
      to: a.went || now,
      kind: 'alarm' as const,
      priority: a.priority,
      name: a.name,
      text: a.text,
      person: a.by,
    })),
    ...m.entries.map((e) => ({
      at: e.at,
      to: e.at,
      kind: 'entry' as const,
      priority: 9,
      name: e.name,
      text: e.text || e.what,
      person: e.person,
    })),
    ...m.notes.map((n) => ({
      at: n.from,
      to: n.to,
      kind: 'note' as const,
      priority: 8,
      name: '',
      text: n.text,
      person: n.person,
    })),
  ].sort((a, b) => a.at - b.at)
}

/** Joins what lies closer than a time; each cluster stands where its first is. */
export function clusters(marks: Mark[], within: number): Cluster[] {
  const out: Cluster[] = []
  for (const m of marks) {
    const last = out.at(-1)
    if (last && m.at - last.at < within) last.marks.push(m)
    else out.push({ at: m.at, marks: [m] })
  }
  for (const c of out) c.marks.sort((a, b) => a.priority - b.priority || a.at - b.at)
  return out
}
