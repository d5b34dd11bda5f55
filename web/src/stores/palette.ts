import type { Material, Palette } from '@/api/client'
import type { PaletteUse } from '@/composables/palette'
import type { Draft } from './documents'

/** The palette of a draft, as parts of packs use it. */
export function paletteOf(draft: () => Draft<Palette> | null): PaletteUse {
  const entries = () => (draft()?.document.entries ?? {}) as Record<string, Material>
  const change = (name: string, material: Material) =>
    draft()?.edit((d) => (d.entries = { ...d.entries, [name]: material }))
  return {
    entries,
    change,
    keep(name, material) {
      let told = name
      for (let number = 2; told in entries(); number++) told = `${name} ${number}`
      change(told, material)
      return told
    },
  }
}
