import shell from './shell'
import site from './site'
import devices from './devices'
import tags from './tags'
import equipment from './equipment'
import alarms from './alarms'
import screens from './screens'
import catalogue from './catalogue'
import people from './people'
import release from './release'
import audit from './audit'
import desk from './desk'

// Every text of the interface in English, a file a stop; de/ holds the same keys.
export const en = {
  ...shell,
  ...site,
  ...devices,
  ...tags,
  ...equipment,
  ...alarms,
  ...screens,
  ...catalogue,
  ...people,
  ...release,
  ...audit,
  ...desk,
}
