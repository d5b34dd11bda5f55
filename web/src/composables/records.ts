/** A record without one of its keys. */
export function without<T>(record: Record<string, T> | undefined, key: string): Record<string, T> {
  return Object.fromEntries(Object.entries(record ?? {}).filter(([name]) => name !== key))
}
