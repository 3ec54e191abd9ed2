import {
  mdiAccountKeyOutline,
  mdiBellOutline,
  mdiChartLineVariant,
  mdiClipboardListOutline,
  mdiCogOutline,
  mdiFlagCheckered,
  mdiMapMarkerOutline,
  mdiMonitorDashboard,
  mdiServerNetworkOutline,
  mdiTagMultipleOutline,
} from '@mdi/js'

/** The stops of the rail, in the order of the job. */
export const stops = [
  { name: 'site', icon: mdiMapMarkerOutline },
  { name: 'devices', icon: mdiServerNetworkOutline },
  { name: 'tags', icon: mdiTagMultipleOutline },
  { name: 'equipment', icon: mdiCogOutline },
  { name: 'screens', icon: mdiMonitorDashboard },
  { name: 'alarms', icon: mdiBellOutline },
  { name: 'history', icon: mdiChartLineVariant },
  { name: 'recipes', icon: mdiClipboardListOutline },
  { name: 'people', icon: mdiAccountKeyOutline },
  { name: 'release', icon: mdiFlagCheckered },
] as const
