import { describe, expect, it } from 'vitest'

import type { Artwork, Palette } from '@/api/client'
import { show, shownOf, versionsOf } from './versions'

const palette = (): Palette => ({ schema_version: 1, entries: {}, colours: [], versions: {} })
const artwork = ['a', 'b'].map((sha256) => ({ sha256 }) as Artwork)

describe('versions of an artwork', () => {
  it('are only itself at first', () => {
    expect(versionsOf('a', palette())).toEqual({ named: 'a', files: ['a'], shown: 'a' })
    expect(shownOf('a', palette(), artwork)?.sha256).toBe('a')
    expect(shownOf(undefined, palette(), artwork)).toBeUndefined()
  })
  it('come one after the other, and any can be shown again', () => {
    const one = palette()
    show(one, 'a', 'b')
    show(one, 'a', 'c')
    expect(versionsOf('a', one)).toEqual({ named: 'a', files: ['a', 'b', 'c'], shown: 'c' })
    show(one, 'a', 'b')
    expect(versionsOf('a', one)).toEqual({ named: 'a', files: ['a', 'b', 'c'], shown: 'b' })
    expect(shownOf('a', one, artwork)?.sha256).toBe('b')
  })
})
