import AlarmKey from '../../alarms/AlarmKey.vue'
import type { ElementKind } from '../element'
import { frame } from '../frame'

const kind: ElementKind = { name: 'alarmkey', draw: frame, page: () => [AlarmKey, {}] }
export default kind
