/** The usual settings of a Modbus TCP device. */
export function newDevice(name: string) {
  return { name, protocol: 'modbus-tcp', host: '127.0.0.1', port: 502, unit: 1, order: 'ABCD', numbering: 0, poll: 250, timeout: 1000, maxGap: 16, maxBlock: 125 }
}
