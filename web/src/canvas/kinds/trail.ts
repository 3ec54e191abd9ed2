import { defineAsyncComponent } from 'vue'
import { num, str, type ElementKind } from '../element'
import { frame } from '../frame'
import { groupNamed, isReason } from '../../audit/trailFilter'

// Not every screen has one.
const TrailPage = defineAsyncComponent(() => import('../../audit/TrailPage.vue'))

/** What an element calls a reason, as the trail is asked. */
const REASON: Record<string, unknown> = { with: 'given', without: 'none' }

const kind: ElementKind = {
  name: 'trail',
  draw: frame,
  page(e, { project }) {
    const p = e.props
    const reason = REASON[str(p.given)]
    return [
      TrailPage,
      {
        project,
        tag: str(p.tag) || undefined,
        columns: str(p.columns),
        narrowed: !!p.narrowed,
        begin: {
          range: { hours: num(p.hours, 0), from: '', to: '' },
          path: str(p.like),
          person: str(p.person),
          what: groupNamed(str(p.kinds)),
          reason: isReason(reason) ? reason : '',
          text: str(p.contains),
        },
      },
    ]
  },
}
export default kind
