import type { Ref } from 'vue'

import type { PhotoSet } from '@/api/client'
import type { Colours } from '@/composables/prints'
import { settled } from '@/composables/settled'
import { usePropShapes } from '@/composables/shapes'
import { PROP } from './props'

/** Shapes of the props that stand on a set, by their keys among what stands. */
export function usePropsOnSet(set: Readonly<Ref<PhotoSet>>, colours: () => Colours) {
  const standing = settled(() => {
    const keys = new Set((set.value.standing ?? []).flatMap(({ of }) => (of.kind === 'prop' ? [of.prop] : [])))
    const some = Object.entries(set.value.props ?? {}).filter(([key]) => keys.has(key))
    return Object.fromEntries(some.map(([key, prop]) => [PROP + key, prop]))
  })
  return usePropShapes(() => standing.value, colours)
}
