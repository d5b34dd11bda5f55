import { computed, type ComputedRef } from 'vue'

/** A computed record that stays the same object for as long as its values do. */
export function settled<T extends object>(read: () => T): ComputedRef<T> {
  return computed<T>((before) => {
    const now = read()
    return before && same(before, now) ? before : now
  })
}

function same(one: object, other: object): boolean {
  const [a, b] = [Object.entries(one), new Map(Object.entries(other))]
  return a.length === b.size && a.every(([key, value]) => b.has(key) && b.get(key) === value)
}
