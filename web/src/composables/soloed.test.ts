import { describe, expect, it } from 'vitest'

import type { PhotoSet } from '@/api/client'
import { soloed } from './soloed'

const box = () => ({ kind: 'softbox', name: 'Key', on: true })

describe('a light alone', () => {
  it('shines without the others and without the surround', () => {
    const set = { lights: [box(), { ...box(), on: false }], surround: { strength: 1 } } as unknown as PhotoSet
    const alone = soloed(set, 1)
    expect(alone.lights.map((l) => l.on)).toEqual([false, true])
    expect(alone.surround.strength).toBe(0)
    expect(soloed(set, null)).toBe(set)
  })
})
