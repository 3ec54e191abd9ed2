import LogCard from '../../logs/LogCard.vue'
import { str, version, type ElementKind } from '../element'
import { frame } from '../frame'

const kind: ElementKind = {
  name: 'logstate',
  draw: frame,
  page: (e, viewer) => [
    LogCard,
    {
      project: viewer.project,
      program: version(viewer),
      id: str(e.props.log),
      buttons: !!e.props.buttons && viewer.program === 'release',
    },
  ],
}
export default kind
