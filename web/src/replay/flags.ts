import type { AlarmMark } from '../canvas/flag'
import type { Marks } from '../trend/useMarks'

const PRIORITIES = ['critical', 'high', 'medium', 'low'] as const

/** The worst alarm of each tag as it stood at a moment, by the tag's id; one that nobody had seen before one that was. */
export function flagsAt(m: Marks, at: number): Map<string, AlarmMark> {
  const out = new Map<string, AlarmMark>()
  const worse = (a: AlarmMark, b: AlarmMark) =>
    PRIORITIES.indexOf(a.priority) - PRIORITIES.indexOf(b.priority) || Number(b.unseen) - Number(a.unseen)
  const earlier = [...m.stood, ...m.unseen].map((a) => ({ ...a, came: 0 }))
  for (const a of [...earlier, ...m.alarms]) {
    const returned = !!a.went && a.went <= at
    const unseen = !a.noAck && !(a.acked && a.acked <= at)
    if (!a.tag || a.came > at || (returned && !unseen)) continue
    const mark = { priority: PRIORITIES[a.priority] ?? 'low', unseen, returned }
    const other = out.get(a.tag)
    if (!other || worse(mark, other) < 0) out.set(a.tag, mark)
  }
  return out
}
