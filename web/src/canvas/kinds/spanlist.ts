import { defineAsyncComponent } from 'vue'
import { str, version, type ElementKind } from '../element'
import { frame } from '../frame'

// The drawing of courses is brought when a screen has the first one.
const SpanPage = defineAsyncComponent(() => import('../../logs/SpanPage.vue'))

const kind: ElementKind = {
  name: 'spanlist',
  draw: frame,
  page: (e, viewer) => [
    SpanPage,
    {
      project: viewer.project,
      program: version(viewer),
      id: str(e.props.log),
      of: str(e.props.equipment) || undefined,
      figures: !!e.props.figures,
    },
  ],
}
export default kind
