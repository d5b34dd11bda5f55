import { describe, expect, it } from 'vitest'

import type { AnyShape, Label, Pack } from '@/api/client'
import { angleOf, carriedTo, guidesAround, guidesUp, wrapped } from './places'

const label = { kind: 'wrap', name: 'Front', from_base: 20, centre_angle: 10, width: 60, height: 40 } as Label
const none = { up: [], around: [] }

describe('a label that is dragged on the pack', () => {
  it('goes with the hand around and up', () => {
    const { change } = carriedTo(label, [0, -30, 40], [30, 0, 47], none)
    expect(change).toEqual({ centre_angle: 100, from_base: 27 })
    expect(carriedTo(label, [0, -30, 40], [0, -30, 0], none).change.from_base).toBe(0)
  })
  it('goes the other way on a pack that stands upside down', () => {
    const { change } = carriedTo(label, [0, -30, 40], [30, 0, 47], none, { turned: true })
    expect(change).toEqual({ centre_angle: -80, from_base: 13 })
  })
  it('is drawn to the front and to zones, unless it is to be free', () => {
    const shape = { kind: 'vessel', zones: [{ name: 'body', bottom: 10, top: 100 }] } as unknown as AnyShape
    const pack = { panels: [label] } as Pack
    const guides = { up: guidesUp(pack, shape, 0), around: guidesAround(pack, 0) }
    const to = [-30 * Math.sin(0.15), -30 * Math.cos(0.15), 54.6] as const
    const drawn = carriedTo(label, [0, -30, 40], to, guides)
    expect(drawn).toEqual({
      change: { centre_angle: 0, from_base: 35 },
      names: ['the front', 'middle of the body'],
    })
    expect(carriedTo(label, [0, -30, 40], to, guides, { free: true }).names).toEqual([])
  })
  it('is drawn to other labels', () => {
    const seal = { kind: 'seal', name: 'Seal', centre_angle: 200 } as Label
    const pack = { panels: [label, { ...label, name: 'Back' }, seal] } as Pack
    expect(guidesUp(pack, null, 0).map((one) => one.at)).toEqual([20, 60, 40])
    expect(guidesAround(pack, 0).slice(-2)).toEqual([
      { at: 10, name: 'the middle of “Back”' },
      { at: -160, name: 'the middle of “Seal”' },
    ])
  })
  it('counts angles from the front to the right', () => {
    expect(angleOf([0, -5, 3])).toBeCloseTo(0)
    expect(angleOf([5, 0, 3])).toBeCloseTo(90)
    expect([wrapped(190), wrapped(-190), wrapped(180), wrapped(540)]).toEqual([-170, 170, 180, 180])
  })
})
