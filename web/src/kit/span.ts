/** A time span as people read it: 12 s, 3 min 20 s, 2 h 05 min, 3 d 4 h. */
export function span(seconds: number): string {
  const s = Math.round(seconds)
  if (seconds < 10 && seconds !== s) return `${seconds.toFixed(1)} s`
  if (s < 60) return `${s} s`
  if (s < 3600)
    return s % 60 ? `${Math.floor(s / 60)} min ${String(s % 60).padStart(2, '0')} s` : `${s / 60} min`
  if (s < 86400)
    return s % 3600 < 60
      ? `${Math.floor(s / 3600)} h`
      : `${Math.floor(s / 3600)} h ${String(Math.floor((s % 3600) / 60)).padStart(2, '0')} min`
  return s % 86400 < 3600
    ? `${Math.floor(s / 86400)} d`
    : `${Math.floor(s / 86400)} d ${Math.floor((s % 86400) / 3600)} h`
}
