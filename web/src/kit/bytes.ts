/** An amount of data as people read it, with three digits: 840 kB, 12.3 MB. */
export function bytes(n: number): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB']
  let i = 0
  while (n >= 1000 && i < units.length - 1) {
    n /= 1000
    i++
  }
  return `${i && n < 100 ? n.toPrecision(3) : Math.round(n)} ${units[i]}`
}
