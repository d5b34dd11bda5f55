import * as THREE from 'three'
import { onScopeDispose, ref, shallowRef, watch } from 'vue'

import { type AnyShape, type Colourway, type Pack, type Palette, type Panel, send } from '@/api/client'
import { onItsPage } from './page'
import { latest } from './latest'

interface Print {
  address: string
  texture: THREE.Texture
}

/** Panels of packs, by the packs' keys. */
type Panels = Record<string, Panel[]>

/** What panels are printed with. */
export interface Colours {
  palette: Palette
  colourway: Colourway | null
}

/**
 * Pictures of what is printed on each panel of packs, made by the core whenever a panel changes.
 * `kept` says how many stay although they are not wanted just now.
 */
export function usePrints(panels: () => Panels | undefined, colours: () => Colours, kept = 0, ppi = 220) {
  const prints = shallowRef<Record<string, Print[]>>({})
  const problem = ref('')
  const made = new Map<string, Print>()

  async function fetchPrint(panel: Panel): Promise<Print> {
    const address = await pictureOf(panel, false)
    const texture = await new THREE.TextureLoader().loadAsync(address)
    texture.colorSpace = THREE.SRGBColorSpace
    texture.anisotropy = 8
    if (panel.run?.length || panel.stock.kind !== 'opaque') {
      const shown = await pictureOf(panel, true)
      texture.userData.looks = await new THREE.TextureLoader().loadAsync(shown)
      URL.revokeObjectURL(shown)
    }
    return { address, texture }
  }

  /** The address of a print as it is seen, or of how rough it is and how much of it is metal. */
  async function pictureOf(panel: Panel, looks: boolean): Promise<string> {
    const { palette, colourway } = colours()
    const response = await send(`/api/panel-picture?ppi=${ppi}&looks=${looks}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ panel, palette, colourway: colourway ?? undefined }),
    })
    return URL.createObjectURL(await response.blob())
  }

  const load = latest(
    async (wanted: Panels) => {
      for (const panel of Object.values(wanted).flat()) {
        const key = printKey(panel, colours())
        if (!made.has(key)) made.set(key, await fetchPrint(panel))
      }
    },
    (_, wanted) => {
      const keys = Object.entries(wanted).map(
        ([name, own]) => [name, own.map((panel) => printKey(panel, colours()))] as const,
      )
      const next = Object.fromEntries(keys.map(([name, own]) => [name, own.map((key) => made.get(key)!)]))
      if (!sameLists(next, prints.value)) prints.value = next
      const used = new Set(keys.flatMap(([, own]) => own))
      for (const key of made.keys()) if (made.size > kept && !used.has(key)) retire(key)
      problem.value = ''
    },
    (error) => (problem.value = String(error instanceof Error ? error.message : error)),
  )

  /** Views still draw with it for a frame or two. */
  function retire(key: string): void {
    const print = made.get(key)!
    made.delete(key)
    setTimeout(() => free(print), 1000)
  }

  function free(print: Print): void {
    URL.revokeObjectURL(print.address)
    ;(print.texture.userData.looks as THREE.Texture | undefined)?.dispose()
    print.texture.dispose()
  }

  watch([panels, () => colours().palette, () => colours().colourway], ([wanted]) => wanted && load(wanted), {
    immediate: true,
  })
  onScopeDispose(() => made.forEach(free))
  return { prints, problem }
}

/** What is printed on a pack as it is now: what its surfaces name by number once it was shaped. */
export function panelsOf(pack: Pack, shape: AnyShape | null | undefined): Panel[] {
  const shaped = shape?.kind === pack.form.kind ? shape.panels : []
  if (pack.form.kind === 'carton') return shaped
  if (pack.form.kind === 'vessel') {
    const sheets = shape?.kind === 'vessel' ? shape.sheets : []
    const own = (pack.panels ?? []).map((panel, index) => onItsPage(panel, sheets[index]?.outline))
    return [...own, ...shaped.slice(own.length)]
  }
  const own = pack.form.parts.filter((part) => part.role !== 'left out')
  return shaped.map((one) => {
    const part = own.find((p) => p.name === one.name)
    return part ? { ...one, placements: part.prints ?? [], run: part.run ?? [] } : one
  })
}

function sameLists(one: Record<string, Print[]>, other: Record<string, Print[]>): boolean {
  const names = Object.keys(one)
  return (
    names.length === Object.keys(other).length &&
    names.every((name) => {
      const [a, b] = [one[name]!, other[name]]
      return b?.length === a.length && a.every((print, i) => print === b[i])
    })
  )
}

/** What of a panel decides its print: moving it on the pack does not. */
function printKey(panel: Panel, { palette, colourway }: Colours): string {
  const { width, height, stock, tooth, run, registration } = panel
  const placements = panel.placements?.map((one) => {
    const named = colourway?.artwork?.[one.artwork] ?? one.artwork
    const texts = { ...one.texts, ...colourway?.texts }
    return { ...one, artwork: palette.versions?.[named]?.shown ?? named, texts }
  })
  const materials = [stock, ...(run ?? []).map((layer) => ('material' in layer ? layer.material : null))]
  const made = materials.map((one) =>
    one?.kind === 'linked' ? (colourway?.entries?.[one.entry] ?? palette.entries?.[one.entry]) : one,
  )
  return JSON.stringify([width, height, tooth, run, registration, made, placements])
}
