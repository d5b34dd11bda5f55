import { ref, shallowRef, watch } from 'vue'

import { answer, api, AS_IT_IS, type AnyShape, type Pack, type Prop, type PropShape, wordsFor } from '@/api/client'
import type { Colours } from './prints'
import { latest } from './latest'

/** Shapes that are kept although they are not wanted just now: those of shots one flicks between. */
const KEPT = 60

/** What the core makes of documents in some colours, by their keys: anew whenever one changes. */
function useMade<D, S>(
  documents: () => Record<string, D> | undefined,
  colours: () => Colours,
  make: (key: string, document: D, colours: Colours) => Promise<S>,
) {
  const shapes = shallowRef<Record<string, S>>({})
  const problem = ref('')
  const made = new Map<string, { from: unknown[]; shape: S }>()

  const makeAll = latest(
    async (wanted: Record<string, D>) => {
      const { palette, colourway } = colours()
      for (const [key, document] of Object.entries(wanted)) {
        const known = made.get(key)
        if (known && known.from[0] === document && known.from[1] === palette && known.from[2] === colourway) continue
        made.set(key, {
          from: [document, palette, colourway],
          shape: await make(key, document, { palette, colourway }),
        })
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

  function publish(wanted: Record<string, D>): void {
    const there = Object.keys(wanted).filter((key) => made.has(key))
    shapes.value = Object.fromEntries(there.map((key) => [key, made.get(key)!.shape]))
  }

  watch([documents, () => colours().palette, () => colours().colourway], ([wanted]) => wanted && makeAll(wanted), {
    immediate: true,
  })
  return { shapes, problem }
}

/** Shapes of packs by their keys. */
export function useShapes(packs: () => Record<string, Pack> | undefined, colours: () => Colours) {
  return useMade(packs, colours, async (key, pack, { palette, colourway }) => {
    const body = { pack, key, palette, colourway: colourway ?? AS_IT_IS }
    return (await answer(api.POST('/api/shape', { body }))) as unknown as AnyShape
  })
}

/** Shapes of props by their keys among what stands. */
export function usePropShapes(props: () => Record<string, Prop> | undefined, colours: () => Colours) {
  return useMade(props, colours, async (_, prop, { palette }) => {
    const body = { prop, palette }
    return (await answer(api.POST('/api/prop-shape', { body }))) as unknown as PropShape
  })
}
