import { describe, expect, it } from 'vitest'

import type { Known, Material } from '@/api/client'
import { lately, nameOf } from './materialLibrary'

const amber = { kind: 'clear', refractive_index: 1.52, colour: '#9a4d10', depth: 7, frost: 0, density: 2.5 } as Material
const library = [
  { key: 'flint', name: 'Flint glass', material: { ...amber, colour: '#f4faf7', depth: 20 } },
  { key: 'amber-glass', name: 'Amber glass', material: amber },
] as unknown as Known[]

describe('the library of materials', () => {
  it('knows its own to the last figure', () => {
    expect(nameOf({ ...amber }, library)?.name).toBe('Amber glass')
    expect(nameOf({ ...amber, depth: 7.5 } as Material, library)).toBeNull()
    expect(nameOf({ ...amber, kind: 'cloudy' } as unknown as Material, library)).toBeNull()
  })
  it('remembers nothing where nothing can be kept', () => {
    expect(lately()).toEqual([])
  })
})
