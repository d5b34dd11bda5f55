import * as THREE from 'three'
import { onScopeDispose, ref, shallowRef, watch } from 'vue'

import { type Pack, type Palette, type Panel, send } from '@/api/client'
import { latest } from './latest'

interface Print {
  address: string
  texture: THREE.Texture
}

/** Pictures of what is printed on each panel, made by the core whenever a panel changes. */
export function usePrints(pack: () => Pack | undefined, palette: () => Palette, ppi = 220) {
  const prints = shallowRef<Print[]>([])
  const problem = ref('')
  const made = new Map<string, Print>()

  async function fetchPrint(panel: Panel): Promise<Print> {
    const response = await send(`/api/panel-picture?ppi=${ppi}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ panel, palette: palette() }),
    })
    const address = URL.createObjectURL(await response.blob())
    const texture = await new THREE.TextureLoader().loadAsync(address)
    texture.colorSpace = THREE.SRGBColorSpace
    texture.anisotropy = 8
    return { address, texture }
  }

  const load = latest(
    async (panels: Panel[]) => {
      for (const panel of panels) {
        const key = printKey(panel, palette())
        if (!made.has(key)) made.set(key, await fetchPrint(panel))
      }
    },
    (_, panels) => {
      const keys = panels.map((panel) => printKey(panel, palette()))
      const next = keys.map((key) => made.get(key)!)
      const changed = next.length !== prints.value.length || next.some((print, i) => print !== prints.value[i])
      if (changed) prints.value = next
      for (const key of made.keys()) if (!keys.includes(key)) retire(key)
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
    print.texture.dispose()
  }

  watch([pack, palette], ([document]) => document && load(document.panels), { immediate: true })
  onScopeDispose(() => made.forEach(free))
  return { prints, problem }
}

/** What of a panel decides its print: moving it on the pack does not. */
function printKey(panel: Panel, palette: Palette): string {
  const stock = panel.stock.kind === 'linked' ? palette.entries[panel.stock.entry] : panel.stock
  return JSON.stringify([panel.width, panel.height, stock, panel.placements])
}
