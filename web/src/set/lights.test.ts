import { describe, expect, it } from 'vitest'

import type { HungLight, Light } from '@/api/client'
import { aimAt, bearing, hangAt, leftOut, toggled } from './lights'

const box = () =>
  ({
    kind: 'softbox',
    name: 'Key',
    on: true,
    azimuth: -90,
    elevation: 0,
    distance: 500,
    width: 10,
    height: 20,
  }) as Light
const hung: HungLight = { centre: [-500, 0, 100], across: [0, -5, 0], up: [0, 0, 10], target: [0, 0, 100] }

describe('lights moved by hand', () => {
  it('are told from what they are aimed at', () => {
    expect(bearing([-500, 0, 100], [0, 0, 100])).toEqual({ azimuth: -90, elevation: 0, distance: 500 })
    expect(bearing([0, -300, 400], [0, 0, 0])).toMatchObject({ azimuth: 0, elevation: 53.13, distance: 500 })
  })

  it('keep what they are aimed at, or where they hang', () => {
    const moved = box()
    hangAt(moved, [0, -400, 100], hung)
    expect(moved).toMatchObject({ azimuth: 0, elevation: 0, distance: 400 })
    const turned = box()
    aimAt(turned, [100, 0, 100], hung)
    expect(turned).toMatchObject({ aim: { x: 100, y: 0, z: 100 }, distance: 600, azimuth: -90 })
  })

  it('leave a sun as far away as it is', () => {
    const sun = { kind: 'sun', name: 'Sun', azimuth: 0, elevation: 0, irradiance: 2 } as Light
    hangAt(sun, [500, 0, 600], { ...hung, target: [0, 0, 100] })
    expect(sun).toMatchObject({ azimuth: 90, elevation: 45 })
    expect(sun).not.toHaveProperty('distance')
  })
})

describe('what a light leaves out', () => {
  const all = [{ part: 'sweep' as const }, { standing: 'a' }, { standing: 'b' }]
  it('is one thing, or everything at once', () => {
    expect(leftOut([{}], { standing: 'a' })).toBe(true)
    expect(leftOut([{ standing: 'a' }], { standing: 'b' })).toBe(false)
    expect(leftOut([{ part: 'sweep' }], { standing: 'a' })).toBe(false)
  })

  it('is put in and taken out', () => {
    expect(toggled([], { standing: 'a' }, all)).toEqual([{ standing: 'a' }])
    expect(toggled([{ standing: 'a' }], { standing: 'a' }, all)).toEqual([])
    expect(toggled([{}], { standing: 'a' }, all)).toEqual([{ part: 'sweep' }, { standing: 'b' }])
  })
})
