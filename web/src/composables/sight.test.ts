import { describe, expect, it } from 'vitest'

import { byBrightness, cutOff, LEVELS, sightOf } from './sight'

const pixels = (...colours: number[][]) => new Uint8ClampedArray(colours.flatMap((c) => [...c, 255]))

describe('what is told of a picture', () => {
  it('counts white, what is cut off, and black', () => {
    const seen = sightOf(pixels([255, 255, 255], [255, 200, 10], [0, 0, 0], [128, 128, 128]))
    expect([seen.white, seen.clipped, seen.black]).toEqual([0.25, 0.25, 0.25])
  })
  it('has a bar for each brightness, the highest being 1', () => {
    const seen = sightOf(pixels([0, 0, 0], [0, 0, 0], [255, 255, 255]))
    expect(seen.bars[0]).toBe(1)
    expect(seen.bars[63]).toBe(0.5)
    expect(seen.bars.slice(1, 63).every((bar) => bar === 0)).toBe(true)
  })
  it('is nothing of an empty picture', () => {
    expect(sightOf(new Uint8ClampedArray())).toMatchObject({ white: 0, clipped: 0, black: 0 })
  })
})

describe('a picture by brightness', () => {
  it('has one colour for each level, and white only where all is white', () => {
    const shown = byBrightness(pixels([255, 255, 255], [254, 254, 254], [0, 0, 0], [118, 118, 118]))
    const at = (n: number) => [...shown.slice(4 * n, 4 * n + 3)]
    expect(at(0)).toEqual([255, 255, 255])
    expect(at(1)).toEqual(LEVELS[6]!.colour)
    expect(at(2)).toEqual(LEVELS[0]!.colour)
    expect(at(3)).toEqual(LEVELS[3]!.colour)
  })
  it('marks with stripes what is cut off and leaves the rest', () => {
    const row = Array.from({ length: 12 }, () => [255, 255, 255])
    const shown = cutOff(pixels(...row, [255, 0, 0], [90, 90, 90]), 14)
    expect([...shown.slice(0, 4)]).toEqual([120, 120, 120, 255])
    expect([...shown.slice(4 * 7, 4 * 7 + 4)]).toEqual([0, 0, 0, 0])
    expect([...shown.slice(4 * 12, 4 * 12 + 4)]).toEqual([200, 30, 50, 255])
    expect([...shown.slice(4 * 13, 4 * 13 + 4)]).toEqual([0, 0, 0, 0])
  })
})
