import type { Device } from '../api/client'

/** An address that a new tag on a device begins with. */
export function firstAddress(device: Device | undefined, type: string): string {
  switch (device?.protocol) {
    case 'opcua':
      return 'ns=1;s=Name'
    case 'mqtt':
      return 'topic|member'
    case 'standin':
      return 'x'
  }
  return type === 'BOOL' ? 'coil:0' : 'holding:0'
}
