import { boundsOf, type Range } from '../kit/timeRange'

/** What is looked for in the trail; empty takes all. */
export interface TrailFilter {
  range: Range
  person: string
  /** Id of an area; what is in it. */
  area: string
  path: string
  what: string
  outcome: string
  reason: '' | 'given' | 'none'
  text: string
}

export const everything = (): TrailFilter => ({
  range: { hours: 0, from: '', to: '' },
  person: '',
  area: '',
  path: '',
  what: '',
  outcome: '',
  reason: '',
  text: '',
})

/** What can be looked for together: writes are those that were sent and those that were refused. */
const kinds: Record<string, string[]> = { intent: ['intent', 'refused'] }

/** Kinds that are looked for as one group; a filter's kind is a group's name with + in front. */
export const GROUPS = {
  writes: ['intent', 'refused', 'lease', 'held', 'given-back', 'event'],
  alarms: ['alarm', 'alarm-limit'],
  recipes: ['recipe', 'delivery'],
  people: [
    'sign-in',
    'sign-out',
    'sign-in-failed',
    'people',
    'directory',
    'panel-enrolled',
    'handover',
    'control',
  ],
  edits: ['edit', 'release', 'project-brought', 'turn', 'loop-check', 'screen-check'],
}

/** The filter's kind for a group by its name; every kind where there is no such group. */
export const groupNamed = (name: string) => (name in GROUPS ? '+' + name : '')

function kindsOf(what: string): string[] {
  if (what.startsWith('+')) return GROUPS[what.slice(1) as keyof typeof GROUPS] ?? []
  return kinds[what] ?? [what]
}

export const isReason = (r: unknown): r is TrailFilter['reason'] => r === 'given' || r === 'none'

/** The question to the server; tag is the one whose own trail it is. */
export function questionOf(f: TrailFilter, tag: string | undefined, now: number) {
  const given = (text: string) => text.trim() || undefined
  return {
    ...boundsOf(f.range, now),
    tag: tag || undefined,
    person: given(f.person),
    area: f.area || undefined,
    path: given(f.path),
    what: f.what ? kindsOf(f.what) : undefined,
    outcome: f.outcome ? [f.outcome] : undefined,
    reason: f.reason || undefined,
    text: given(f.text),
  }
}

/** The same as the end of an address; several values of one name stand with commas. */
export function addressOf(question: Record<string, unknown>): string {
  return new URLSearchParams(
    Object.entries(question).flatMap(([name, v]) => (v === undefined ? [] : [[name, String(v)]])),
  ).toString()
}
