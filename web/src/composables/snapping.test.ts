import { describe, expect, it } from 'vitest'

import { snapPoint } from './snapping'

describe('snapping a dragged corner', () => {
  const others = [
    { x: 36, y: 150 },
    { x: 14, y: 188 },
  ]
  it('takes over the radius of a near corner and steps its own height', () => {
    expect(snapPoint({ x: 35.4, y: 77.3 }, others, 1, 0.5)).toEqual({ x: 36, y: 77.5, atX: 36, atY: null })
  })
  it('takes over the nearest of several heights', () => {
    expect(snapPoint({ x: 20.2, y: 187.5 }, [...others, { x: 1, y: 187 }], 1, 0.5).atY).toBe(188)
  })
  it('only steps when nothing is near', () => {
    expect(snapPoint({ x: 20.21, y: 60.4 }, others, 1, 0.1)).toEqual({
      x: 20.200000000000003,
      y: 60.400000000000006,
      atX: null,
      atY: null,
    })
  })
})
