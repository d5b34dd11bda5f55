/** Seconds in words a person plans with. */
export function showDuration(seconds: number): string {
  if (seconds < 10) return `${Math.max(Math.round(seconds), 1)} s`
  if (seconds < 90) return `${Math.round(seconds / 5) * 5} s`
  if (seconds < 3600) return `${Math.round(seconds / 60)} min`
  const hours = Math.floor(seconds / 3600)
  return `${hours} h ${Math.round((seconds - 3600 * hours) / 60)} min`
}
