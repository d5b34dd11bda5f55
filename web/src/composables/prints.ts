import * as THREE from 'three'
import { onBeforeUnmount, ref, watch } from 'vue'

import { type Pack, type Panel, send } from '@/api/client'
import { latest } from './latest'

interface Print {
  address: string
  texture: THREE.Texture
}

/** Pictures of what is printed on each panel, made by the core whenever a panel changes. */
export function usePrints(pack: () => Pack | undefined, ppi = 220) {
  const prints = ref<(Print | null)[]>([])
  const problem = ref('')
  const keys: string[] = []

  async function fetchPrint(panel: Panel): Promise<Print> {
    const response = await send(`/api/panel-picture?ppi=${ppi}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify(panel),
    })
    const address = URL.createObjectURL(await response.blob())
    const texture = await new THREE.TextureLoader().loadAsync(address)
    texture.colorSpace = THREE.SRGBColorSpace
    texture.anisotropy = 8
    return { address, texture }
  }

  const load = latest(
    async (panels: Panel[]) => {
      const made: { index: number; print: Print }[] = []
      for (const [index, panel] of panels.entries()) {
        const key = printKey(panel)
        if (keys[index] === key) continue
        made.push({ index, print: await fetchPrint(panel) })
        keys[index] = key
      }
      return made
    },
    (made, panels) => {
      const next = prints.value.slice(0, panels.length)
      for (const { index, print } of made) {
        release(next[index])
        next[index] = print
      }
      prints.value = next as typeof prints.value
      problem.value = ''
    },
    (error) => (problem.value = String(error instanceof Error ? error.message : error)),
  )

  function release(print: { address: string; texture: { dispose(): void } } | null | undefined): void {
    if (!print) return
    URL.revokeObjectURL(print.address)
    print.texture.dispose()
  }

  watch(pack, (document) => document && load(document.panels), { immediate: true })
  onBeforeUnmount(() => prints.value.forEach(release))
  return { prints, problem }
}

/** What of a panel decides its print: moving it on the pack does not. */
function printKey(panel: Panel): string {
  return JSON.stringify([panel.width, panel.height, panel.stock.colour, panel.placements])
}
