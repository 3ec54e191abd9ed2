import RecordPage from '../../trend/RecordPage.vue'
import { num, str, type ElementKind } from '../element'
import { frame } from '../frame'
import { told } from '../../trend/told'

/** Milliseconds from row to row. */
const EVERY: Record<string, number> = {
  change: 0,
  '1 s': 1000,
  '10 s': 10_000,
  '1 min': 60_000,
  '10 min': 600_000,
  '1 h': 3_600_000,
  '1 d': 86_400_000,
}

const kind: ElementKind = {
  name: 'records',
  draw: frame,
  page: (e, { project }, shown) => [
    RecordPage,
    {
      project,
      log: str(e.props.log) || undefined,
      pens: e.pens ?? [],
      told: told(e, shown),
      minutes: num(e.props.minutes, 60),
      every: EVERY[str(e.props.every)] ?? 60_000,
      files: !!e.props.files,
    },
  ],
}
export default kind
