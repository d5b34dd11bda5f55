import { computed, type Ref, watch } from 'vue'

import type { AnyShape, Pack } from '@/api/client'
import { panelsOf, usePrints } from '@/composables/prints'
import { useShapes } from '@/composables/shapes'
import { useJob } from '@/stores/job'
import type { useProof } from '@/stores/proof'

export const AS_IT_IS_WORDS = 'as it is'

type Proof = ReturnType<typeof useProof>
export const printed = (packs: Record<string, Pack>, made: Record<string, AnyShape>) =>
  Object.fromEntries(Object.entries(packs).map(([key, pack]) => [key, panelsOf(pack, made[key])]))
export const texturesOf = (made: ReturnType<typeof usePrints>['prints']['value']) =>
  Object.fromEntries(Object.entries(made).map(([key, own]) => [key, own.map((print) => print.texture)]))

/** Another colourway beside the open one: its packs, drawn while its proof has not come. */
export function useCompared({ beside, compare, part }: Proof, more: Readonly<Ref<object>>) {
  const job = useJob()
  const colours = () => ({ palette: job.palette, colourway: beside.value?.colourway?.document ?? null })
  const standing = () => (beside.value ? job.standing : {})
  const { shapes } = useShapes(standing, colours)
  const { prints } = usePrints(() => printed(standing(), shapes.value), colours)
  const compared = computed(
    () =>
      beside.value && {
        name: beside.value.name,
        proof: beside.value.address,
        part: part.value,
        drawn: { shapes: { ...shapes.value, ...more.value }, pictures: texturesOf(prints.value) },
      },
  )
  function compareWith(key: string): void {
    const colourway = job.colourways.find((one) => one.saved.key === key) ?? null
    compare({ colourway, name: colourway?.saved.name ?? AS_IT_IS_WORDS })
  }
  watch(
    () => job.colourway,
    (open) => beside.value && open === beside.value.colourway && compare(null),
  )
  return { compared, compareWith }
}
