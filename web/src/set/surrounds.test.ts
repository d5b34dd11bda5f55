import { describe, expect, it } from 'vitest'

import { anotherCard, around, behindKind, behindOf, fromMap, onMap, sunWords, surroundOf } from './surrounds'

describe('a flat map of what is all around', () => {
  it('has what is straight behind in its middle and what is right of the camera on its right', () => {
    expect(onMap(180, 0)).toEqual([0.5, 0.5])
    expect(onMap(90, 0)).toEqual([0.75, 0.5])
    expect(onMap(-90, 45)).toEqual([0.25, 0.25])
  })
  it('is read backwards as it was written', () => {
    for (const [azimuth, elevation] of [
      [30, 20],
      [-150, -40],
      [179, 89],
    ] as const) {
      expect(fromMap(...onMap(azimuth, elevation))).toEqual([azimuth, elevation])
    }
  })
  it('goes on beyond its edges', () => {
    expect(around(190)).toBe(-170)
    expect(around(-540)).toBe(-180)
    expect(fromMap(1.25, 2)).toEqual([-90, -90])
  })
})

describe('surrounds', () => {
  it('are as bright as a set wants them when they come', () => {
    const facts = { sha256: 'a', name: 'Yard', width_px: 64, height_px: 32, contrast: 9, notes: [] }
    expect(surroundOf({ ...facts, lying: 0.3 }).strength).toBe(3)
    expect(surroundOf({ ...facts, lying: 0 }).strength).toBe(100)
  })
  it('get cards that are told apart', () => {
    const one = anotherCard([])
    expect([one.name, anotherCard([{ ...one, name: 'Card 2' }]).name]).toEqual(['Card 1', 'Card 3'])
  })
  it('say where the sun is', () => {
    expect(sunWords({ azimuth: 182, elevation: 65.4 })).toBe('The sun stands 65° high in the south.')
    expect(sunWords({ azimuth: 350, elevation: 5 })).toContain('north.')
    expect(sunWords({ azimuth: 10, elevation: -3 })).toContain('down')
  })
})

describe('what is behind', () => {
  it('is of the kind that was chosen', () => {
    for (const kind of ['sweep', 'white', 'colour', 'gradient', 'picture', 'surround']) {
      expect(behindKind(behindOf(kind, 'a'))).toBe(kind)
    }
  })
})
