import { computed, ref, type Ref } from 'vue'

import type { Artwork, Shot } from '@/api/client'

export type Reference = NonNullable<Shot['references']>[number]
/** A reference whose picture there is. */
export interface Pinned extends Reference {
  /** Among those of its shot. */
  index: number
  src: string
}

const LONGEST_PX = 1600
export const MOST_REFERENCES = 12

/** Where a picture of the library is shown, by what it is. */
export function addressOf(sha256: string, artwork: readonly Artwork[]): string | null {
  const found = artwork.find((one) => one.sha256 === sha256)
  return found ? `/api/artwork/${found.id}/preview.png?width=${LONGEST_PX}` : null
}

/** The pictures that are pinned to a shot, and whether they are looked at just now. */
export function useReferences(
  shot: Readonly<Ref<Shot>>,
  artwork: () => readonly Artwork[],
  edit: (change: (shot: Shot) => void) => void,
) {
  const seen = ref(true)
  const pinned = computed<Pinned[]>(() =>
    (shot.value.references ?? []).flatMap((one, index) => {
      const src = addressOf(one.picture, artwork())
      return src ? [{ ...one, index, src }] : []
    }),
  )
  const beside = computed(() => (seen.value ? pinned.value.filter((one) => one.lies === 'beside') : []))
  const over = computed(() => (seen.value ? pinned.value.filter((one) => one.lies !== 'beside') : []))
  /** See another share of one of those that lie over the picture. */
  function wipe(index: number, strength: number): void {
    const at = over.value[index]!.index
    edit((d) => (d.references![at]!.strength = strength))
  }
  return { seen, beside, over, wipe }
}
