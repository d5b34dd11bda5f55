import type { PhotoSet } from '@/api/client'

/** A set in which one light shines alone, or as it is. */
export function soloed(set: PhotoSet, alone: number | null): PhotoSet {
  if (alone === null) return set
  const lights = set.lights.map((light, i) => ({
    ...light,
    on: i === alone || light.kind === 'card' ? light.on || i === alone : false,
  }))
  return { ...set, lights: lights as PhotoSet['lights'], surround: { ...set.surround, strength: 0 } }
}
