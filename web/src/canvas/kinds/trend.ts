import { defineAsyncComponent } from 'vue'
import { num, str, type ElementKind } from '../element'
import { frame } from '../frame'
import { told } from '../../trend/told'

// The drawing of courses is brought when a screen has the first one.
const TrendPage = defineAsyncComponent(() => import('../../trend/TrendPage.vue'))

const kind: ElementKind = {
  name: 'trend',
  natural: true,
  draw: frame,
  page: (e, { project }, shown) => [
    TrendPage,
    {
      project,
      log: str(e.props.log) || undefined,
      pens: e.pens ?? [],
      told: told(e, shown),
      minutes: num(e.props.minutes, 480),
      figures: !!e.props.figures,
    },
  ],
}
export default kind
