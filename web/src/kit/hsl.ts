/** A colour as people mix it: hue in degrees, the others and the share in percent. */
export interface Mixed {
  h: number
  s: number
  l: number
  share: number
}

/** The colour of #rrggbb or #rrggbbaa; undefined for any other text. */
export function mixedOf(hex: string): Mixed | undefined {
  const m = /^#([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})([0-9a-f]{2})?$/i.exec(hex)
  if (!m) return undefined
  const [r, g, b, a] = m.slice(1).map((x) => (x === undefined ? 1 : parseInt(x, 16) / 255)) as [
    number,
    number,
    number,
    number,
  ]
  const max = Math.max(r, g, b)
  const d = max - Math.min(r, g, b)
  const l = max - d / 2
  const h = d === 0 ? 0 : max === r ? ((g - b) / d + 6) % 6 : max === g ? (b - r) / d + 2 : (r - g) / d + 4
  const s = d === 0 ? 0 : d / (1 - Math.abs(2 * l - 1))
  return { h: Math.round(h * 60), s: Math.round(s * 100), l: Math.round(l * 100), share: Math.round(a * 100) }
}

/** The colour as #rrggbb, with two more digits where it lets something through. */
export function hexOf({ h, s, l, share }: Mixed): string {
  const a = (s / 100) * Math.min(l / 100, 1 - l / 100)
  const part = (n: number) => {
    const k = (n + h / 30) % 12
    return byte(l / 100 - a * Math.max(-1, Math.min(k - 3, 9 - k, 1)))
  }
  return '#' + part(0) + part(8) + part(4) + (share < 100 ? byte(share / 100) : '')
}

const byte = (f: number) =>
  Math.round(f * 255)
    .toString(16)
    .padStart(2, '0')
