import { inject, type InjectionKey } from 'vue'

import type { Artwork, BrandColour, Material } from '@/api/client'

/** The job's palette as parts of a pack see it. */
export interface PaletteUse {
  entries(): Record<string, Material>
  /** Put a material under a name of its own; returns that name. */
  keep(name: string, material: Material): string
  change(name: string, material: Material): void
  /** The colours of the brand. */
  colours(): BrandColour[]
  setColours(colours: BrandColour[]): void
  /** What colours can be read out of and picked from. */
  artwork(): readonly Artwork[]
  pictures(): { name: string; address: string }[]
  /** Everything of the job that is made of an entry, in words: where the open pack has it by the part alone. */
  usedOn(name: string): string
}

export const PALETTE: InjectionKey<PaletteUse> = Symbol('palette')

/** The palette of the job that is open; none where materials are said in full only. */
export const usePalette = (): PaletteUse | null => inject(PALETTE, null)
