import { describe, expect, it } from 'vitest'

import type { Camera, View } from '@/api/client'
import { seenFrom, takenIn } from './view'

const CAMERA = { distance: 1000, height: 300, azimuth: 0, aim_height: 100, aim_x: 10, aim_y: 20 } as Camera
const VIEW = {
  position: [10, -980, 300],
  target: [10, 20, 100],
  vertical_angle: 90,
  rise: 0.1,
  roll: 3,
  height: null,
} as View

describe('what is seen ahead of the plan', () => {
  it('is what was seen where nothing has moved', () => {
    expect(seenFrom(CAMERA, CAMERA, VIEW)).toEqual(VIEW)
  })
  it('is seen from where one has walked', () => {
    const right = seenFrom({ ...CAMERA, azimuth: 90, height: 350 }, CAMERA, VIEW)
    expect(right.position.map(Math.round)).toEqual([1010, 20, 350])
    expect(right.target).toEqual([10, 20, 100])
  })
  it('takes in what the lens does at what it is aimed at, or what is said', () => {
    expect(takenIn({ ...CAMERA, upright: true }, VIEW)).toBeCloseTo(2000)
    expect(takenIn({ ...CAMERA, height: 850 }, VIEW)).toBeCloseTo(2500)
    expect(takenIn(CAMERA, { ...VIEW, height: 200 })).toBe(200)
  })
  it('keeps what is upright so, by moving the frame', () => {
    const level = { ...CAMERA, upright: true }
    const lower = seenFrom({ ...level, height: 100 }, level, { ...VIEW, target: [10, 20, 300] })
    expect(lower.target).toEqual([10, 20, 100])
    expect(lower.rise).toBeCloseTo(0.1 + 200 / 2000)
  })
})
