import type { Material, Pack, Palette } from '@/api/client'
import { alsoOn, linksTo } from '@/composables/links'
import type { PaletteUse } from '@/composables/palette'
import type { Draft } from './documents'

/**
 * The palette of a draft, as parts of packs use it; `packs` are those of the job, one of them open. `seen` are
 * its artwork and other pictures.
 */
export function paletteOf(
  draft: () => Draft<Palette> | null,
  packs: () => { all: readonly { name: string; document: Pack }[]; open: string },
  seen: Pick<PaletteUse, 'artwork' | 'pictures'>,
): PaletteUse {
  const entries = () => (draft()?.document.entries ?? {}) as Record<string, Material>
  const change = (name: string, material: Material) =>
    draft()?.edit((d) => (d.entries = { ...d.entries, [name]: material }))
  return {
    entries,
    change,
    ...seen,
    colours: () => draft()?.document.colours ?? [],
    setColours: (colours) => draft()?.edit((d) => (d.colours = colours)),
    usedOn: (name) => alsoOn(linksTo(name, packs().all), packs().open),
    keep(name, material) {
      let told = name
      for (let number = 2; told in entries(); number++) told = `${name} ${number}`
      change(told, material)
      return told
    },
  }
}
