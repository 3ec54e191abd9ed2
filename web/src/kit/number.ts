/** The number that somebody typed, with a point or a comma; nothing for what is none. */
export function typedNumber(text: string): number | undefined {
  const v = Number(text.trim().replace(',', '.'))
  return text.trim() && Number.isFinite(v) ? v : undefined
}
