import AlarmTable from '../../alarms/AlarmTable.vue'
import JournalList from '../../alarms/JournalList.vue'
import OccurrenceList from '../../alarms/OccurrenceList.vue'
import { PRIORITIES } from '../../alarms/useAlarms'
import { str, type ElementKind, type Props } from '../element'
import { frame } from '../frame'

const kind: ElementKind = {
  name: 'alarmlist',
  draw: frame,
  page(e, { project, program, language }) {
    const p = e.props as Props
    const style = 'height: 100%; background: var(--c-sheet)'
    if (p.list === 'journal') return [JournalList, { project, style }]
    if (p.list === 'occurrences')
      return [OccurrenceList, { project, columns: str(p.columns), query: occurrencesOf(p), style }]
    const texts = ['list', 'columns', 'order', 'worst', 'area', 'group', 'contains', 'stamp']
    const given = Object.fromEntries(texts.map((name) => [name, str(p[name])]))
    return [AlarmTable, { project, program, language, ...given, buttons: !!p.buttons }]
  },
}
export default kind

/** What a list by occurrence asks of the journal. */
function occurrencesOf(p: Props): Record<string, unknown> {
  const worst = PRIORITIES.indexOf(str(p.worst) as 'low')
  return {
    priority:
      worst >= 0 && worst < PRIORITIES.length - 1
        ? PRIORITIES.map((_, i) => i).slice(0, worst + 1)
        : undefined,
    area: str(p.area) ? [str(p.area)] : undefined,
    text: str(p.contains) || undefined,
  }
}
