// Every colour, in one place. A test in Go computes the contrasts of this file.

export const light = {
  paper: '#F5F2EC',
  sheet: '#FFFDF9',
  line: '#D9D3C7',
  ink: '#1F2A30',
  quiet: '#5B6770',
  spruce: '#1E6B5A',
  onSpruce: '#FFFDF9',
  tint: '#E3EEE9',
  rail: '#22303A',
  railText: '#E7E3DA',
  railQuiet: '#9FB0B8',
  railAccent: '#58B39B',
  field: '#D6D7D3',
  fieldQuiet: '#4A555D',
  critical: '#A61B45',
  high: '#BF5314',
  medium: '#C79A1E',
  low: '#4B6C9E',
  error: '#A61B45',
  warning: '#8A6A0C',
  onAlarm: '#FFFDF9',
  onMedium: '#1F2A30',
  wood: '#DCCDB2',
  woodEdge: '#7D6A48',
  metal: '#B9BFC0',
  water: '#3D74A8',
  heat: '#B4551D',
  band: '#DCE3E0',
  track: '#C2C4C0',
}

export const dark: typeof light = {
  paper: '#171C1E',
  sheet: '#20272A',
  line: '#354045',
  ink: '#E7E3DA',
  quiet: '#9BA7AC',
  spruce: '#58B39B',
  onSpruce: '#10171B',
  tint: '#223A35',
  rail: '#10171B',
  railText: '#E7E3DA',
  railQuiet: '#9BA7AC',
  railAccent: '#58B39B',
  field: '#2B3032',
  fieldQuiet: '#A9B4B8',
  critical: '#E0557F',
  high: '#E5813F',
  medium: '#D9B24A',
  low: '#86A5D4',
  error: '#E98AA6',
  warning: '#D9B24A',
  onAlarm: '#10171B',
  onMedium: '#10171B',
  wood: '#6B5D45',
  woodEdge: '#B49E75',
  metal: '#5C666A',
  water: '#7FB2DE',
  heat: '#E5914F',
  band: '#3A4644',
  track: '#454C4E',
}

export type Colours = typeof light

/** Writes a set of colours into the page as custom properties, --c-paper and so on. */
export function applyColours(colours: Colours): void {
  for (const [name, value] of Object.entries(colours)) {
    document.documentElement.style.setProperty(
      '--c-' + name.replace(/[A-Z]/g, (c) => '-' + c.toLowerCase()),
      value,
    )
  }
}

/** The colour that a screen's property names: one of the palette, alone or with its share as in "ink 40%", or #rrggbb with or without two digits for the share. */
export function colour(name: unknown): string {
  const s = typeof name === 'string' ? name : 'ink'
  if (s === 'none' || s.startsWith('#')) return s
  const [base, share] = s.split(' ')
  return share ? `color-mix(in srgb, var(--c-${base}) ${share}, transparent)` : `var(--c-${s})`
}
