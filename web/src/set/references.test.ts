import { describe, expect, it } from 'vitest'
import { ref } from 'vue'

import type { Artwork, Shot } from '@/api/client'
import { addressOf, useReferences } from './references'

const artwork = [{ id: 7, sha256: 'aa' }] as Artwork[]

describe('references', () => {
  it('are shown by what they are', () => {
    expect(addressOf('aa', artwork)).toBe('/api/artwork/7/preview.png?width=1600')
    expect(addressOf('bb', artwork)).toBeNull()
  })

  it('lie beside or over what the camera sees, or are put away', () => {
    const shot = ref({
      references: [
        { picture: 'aa', name: 'Mood', lies: 'beside', strength: 0.5 },
        { picture: 'aa', name: 'Light', lies: 'wipe', strength: 0.5 },
        { picture: 'gone', name: 'Gone', lies: 'over', strength: 0.5 },
      ],
    } as unknown as Shot)
    const { seen, beside, over, wipe } = useReferences(
      shot,
      () => artwork,
      (change) => change(shot.value),
    )
    expect(beside.value.map((one) => one.name)).toEqual(['Mood'])
    expect(over.value.map((one) => one.name)).toEqual(['Light'])
    wipe(0, 0.2)
    expect(shot.value.references!.map((one) => one.strength)).toEqual([0.5, 0.2, 0.5])
    seen.value = false
    expect([...beside.value, ...over.value]).toEqual([])
  })
})
