import { ref, shallowRef, watch } from 'vue'

import { answer, api, AS_IT_IS, type Pack, type AnyShape, wordsFor } from '@/api/client'
import type { Colours } from './prints'
import { latest } from './latest'

/** Shapes that are kept although they are not wanted just now: those of shots one flicks between. */
const KEPT = 60

/** Shapes of packs by their keys, made by the core whenever one changes; the rest is kept. */
export function useShapes(packs: () => Record<string, Pack> | undefined, colours: () => Colours) {
  const shapes = shallowRef<Record<string, AnyShape>>({})
  const problem = ref('')
  const made = new Map<string, { from: unknown[]; shape: AnyShape }>()

  const shapeAll = latest(
    async (wanted: Record<string, Pack>) => {
      const { palette, colourway } = colours()
      for (const [key, pack] of Object.entries(wanted)) {
        const known = made.get(key)
        if (known && known.from[0] === pack && known.from[1] === palette && known.from[2] === colourway) continue
        const body = { pack, key, palette, colourway: colourway ?? AS_IT_IS }
        const shape = (await answer(api.POST('/api/shape', { body }))) as unknown as AnyShape
        made.set(key, { from: [pack, palette, colourway], shape })
        publish(wanted)
      }
    },
    (_, wanted) => {
      for (const key of made.keys()) if (made.size > KEPT && !(key in wanted)) made.delete(key)
      publish(wanted)
      problem.value = ''
    },
    (error) => (problem.value = wordsFor(error)),
  )

  function publish(wanted: Record<string, Pack>): void {
    const there = Object.keys(wanted).filter((key) => made.has(key))
    shapes.value = Object.fromEntries(there.map((key) => [key, made.get(key)!.shape]))
  }

  watch([packs, () => colours().palette, () => colours().colourway], ([wanted]) => wanted && shapeAll(wanted), {
    immediate: true,
  })
  return { shapes, problem }
}
