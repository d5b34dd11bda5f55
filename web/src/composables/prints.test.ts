import * as THREE from 'three'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'

import type { Palette, Panel } from '@/api/client'
import { usePrints } from './prints'

const waiting: (() => void)[] = []
vi.mock('@/api/client', () => ({
  send: () => new Promise((done) => waiting.push(() => done({ blob: () => Promise.resolve(new Blob()) }))),
}))
const panel = (x: number, from_base = 30) => ({
  width: 90,
  height: 60,
  from_base,
  stock: { kind: 'opaque', colour: '#ffffff' },
  placements: [{ x }],
})
const panels = (x: number, from_base?: number) => [panel(x, from_base)] as unknown as Panel[]
const settle = async () => {
  for (let i = 0; i < 12; i++) await Promise.resolve()
  await nextTick()
}

const PALETTE: Palette = { schema_version: 1, entries: {}, colours: [], versions: {} }

describe('prints', () => {
  const scope = effectScope()
  vi.spyOn(THREE.TextureLoader.prototype, 'loadAsync').mockImplementation(() => Promise.resolve(new THREE.Texture()))
  afterEach(() => scope.stop())

  it('come once for what is printed, however often the pack changes meanwhile', async () => {
    const document = ref(panels(0))
    const { prints } = scope.run(() =>
      usePrints(
        () => ({ own: document.value }),
        () => ({ palette: PALETTE, colourway: null }),
      ),
    )!
    await settle()
    document.value = panels(0, 35)
    await nextTick()
    waiting.shift()!()
    await settle()
    expect(prints.value.own).toHaveLength(1)
    expect(waiting).toHaveLength(0)

    const [first] = prints.value.own!
    document.value = panels(0, 40)
    await settle()
    expect(prints.value.own![0]).toBe(first)

    document.value = panels(12, 40)
    await settle()
    waiting.shift()!()
    await settle()
    expect(prints.value.own![0]).not.toBe(first)
  })
})
