import { describe, expect, it } from 'vitest'

import { over, PIXELS, proofSize } from './proofSize'

const PICTURE = { width_px: 1600, height_px: 1200 }

describe('how large a proof is', () => {
  it('has about so many pixels of the aspect of its picture', () => {
    const { width, height, part } = proofSize(PICTURE, PIXELS.medium, null)
    expect(part).toBeUndefined()
    expect(width / height).toBeCloseTo(4 / 3, 2)
    expect(Math.abs(width * height - PIXELS.medium)).toBeLessThan(1500)
  })
  it('shows a part more finely, with as many pixels', () => {
    const { width, height, part } = proofSize(PICTURE, 60_000, { x: 0.25, y: 0.5, width: 0.5, height: 0.25 })
    expect(width * height).toBeGreaterThan(7.9 * 60_000)
    expect(part!.width * part!.height).toBeLessThan(61_000)
    expect(part!.left / width).toBeCloseTo(0.25, 2)
    expect((part!.top + part!.height) / height).toBeCloseTo(0.75, 2)
  })
  it('shows no part more finely than its picture will, but for small pictures', () => {
    const tiny = { x: 0.4, y: 0.4, width: 0.1, height: 0.1 }
    expect(proofSize(PICTURE, PIXELS.large, tiny)).toMatchObject({ width: 1600, height: 1200 })
    const small = proofSize({ width_px: 80, height_px: 64 }, PIXELS.medium, tiny)
    expect(small.width * small.height).toBeGreaterThan(149_000)
  })
  it('asks for no more than there can be, however long and narrow', () => {
    const long = { width_px: 16_384, height_px: 64 }
    const { width, height, part } = proofSize(long, PIXELS.large, { x: 0.99, y: 0, width: 0.01, height: 1 })
    expect(width).toBeLessThanOrEqual(16_384)
    expect(part!.left + part!.width).toBeLessThanOrEqual(width)
    expect(part!.top + part!.height).toBeLessThanOrEqual(height)
    expect(part!.width).toBeGreaterThanOrEqual(16)
  })
  it('lays a part where it is', () => {
    expect(over(null)).toEqual({})
    expect(over({ x: 0.25, y: 0.5, width: 0.5, height: 0.25 })).toMatchObject({ left: '25%', top: '50%', width: '50%' })
  })
})
