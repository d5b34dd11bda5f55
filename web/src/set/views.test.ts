import { describe, expect, it } from 'vitest'

import type { Camera } from '@/api/client'
import { formatOf, keepingCrop, panned, viewName } from './views'

describe('ways to look', () => {
  it('takes in the same with another lens, from the same direction', () => {
    const camera = { lens_mm: 50, distance: 600, height: 260, aim_height: 110 } as Camera
    const longer = keepingCrop(camera, 100)
    expect([longer.lens_mm, longer.distance, longer.height]).toEqual([100, 1200, 410])
    expect((longer.height - 110) / longer.distance).toBeCloseTo((260 - 110) / 600)
  })
  it('moves aside with what it is aimed at', () => {
    const camera = { distance: 1000, height: 260, azimuth: 90, aim_height: 110, aim_x: 5, aim_y: 0 } as Camera
    const aside = panned(camera, 200, 1.5, 0.1, -0.25)
    expect([aside.aim_x, aside.aim_y]).toEqual([5, -30])
    expect([aside.aim_height, aside.height]).toEqual([60, 210])
  })
  it('gives views names that are told apart', () => {
    const view = (name: string) => ({ name, camera: {} as Camera, framed_by_hand: true })
    expect(viewName([], '')).toBe('View 1')
    expect(viewName([view('View 1')], '')).toBe('View 2')
    expect(viewName([], ' Front ')).toBe('Front')
    expect(viewName([view('Front')], 'Front')).toBe('Front 1')
  })
  it('knows formats by their size', () => {
    expect(formatOf(1080, 1920)).toContain('story')
    expect(formatOf(7, 5)).toBe('')
  })
})
