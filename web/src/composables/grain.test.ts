import { afterEach, describe, expect, it } from 'vitest'

import type { Grain } from '@/api/client'
import { axesAt, grainInHand, holdGrain, letGoOfGrain, REACH_PX, seenWay, settled, turnGrain, turnOf } from './grain'

const grain = { pattern: 'wood', lies: 'around', turn: 0 } as unknown as Grain

afterEach(() => letGoOfGrain())

describe('the ways of a grain', () => {
  it('go to the right and up as a part is seen from outside', () => {
    const front = [0, -1, 0] as const
    const right = [1, 0, 0] as const
    for (const lies of ['around', 'over', 'through'] as const)
      expect(axesAt(lies, [0, -20, 5], front)).toEqual({ right: [1, expect.closeTo(0), 0], up: [0, 0, 1] })
    expect(axesAt('around', [20, 0, 5], right).right).toEqual([expect.closeTo(0), 1, 0])
    expect(axesAt('over', [20, 3, 5], right).right).toEqual([0, 1, 0])
    expect(axesAt('over', [2, 20, 5], [0, 1, 0]).right).toEqual([-1, 0, 0])
    expect(axesAt('over', [-20, 3, 5], [-1, 0, 0]).right).toEqual([0, -1, 0])
    expect(axesAt('through', [20, 3, 5], right).right).toEqual([1, 0, 0])
    for (const lies of ['around', 'over'] as const) {
      expect(axesAt(lies, [3, 4, 9], [0, 0, 1])).toEqual({ right: [1, 0, 0], up: [0, 1, 0] })
      expect(axesAt(lies, [3, 4, 0], [0, 0, -1])).toEqual({ right: [1, 0, 0], up: [0, -1, 0] })
    }
  })
  it('are seen turned, and told from how they are seen', () => {
    const [right, up] = [
      [2, 0.5],
      [0.3, -1.5],
    ] as const
    for (const turn of [0, 30, 90, -45]) {
      const way = seenWay(turn, right, up)
      expect(Math.hypot(...way)).toBeCloseTo(REACH_PX)
      expect(turnOf(way, right, up)).toBeCloseTo(turn)
    }
    expect(turnOf([1, 1], [1, 0], [2, 0])).toBeNull()
  })
  it('have no front, and are drawn to steps', () => {
    expect([settled(181, true), settled(-135, true), settled(-90, true), settled(270, true)]).toEqual([1, 45, 90, 90])
    expect([settled(43, false), settled(43, true), settled(51, false)]).toEqual([45, 43, 51])
  })
})

describe('the grain in hand', () => {
  it('is of one sentence at a time', () => {
    const [one, other] = [Symbol(), Symbol()]
    const told: string[] = []
    holdGrain(one, { part: 'body' }, grain, (v) => told.push(`one ${v}`))
    holdGrain(other, { part: 'closure' }, grain, (v) => told.push(`other ${v}`))
    letGoOfGrain(one)
    turnGrain(30)
    expect([grainInHand.held?.place.part, told]).toEqual(['closure', ['other 30']])
    letGoOfGrain(other)
    turnGrain(40)
    expect([grainInHand.held, told.length]).toEqual([null, 1])
  })
})
