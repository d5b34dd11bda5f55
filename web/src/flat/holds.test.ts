import { describe, expect, it } from 'vitest'

import { holds } from './holds'

const L = [
  [0, 0],
  [10, 0],
  [10, 4],
  [4, 4],
  [4, 10],
  [0, 10],
]

describe('an outline', () => {
  it('holds what lies in it, and not what lies in its corner', () => {
    expect(holds(L, [2, 8])).toBe(true)
    expect(holds(L, [8, 2])).toBe(true)
    expect(holds(L, [8, 8])).toBe(false)
    expect(holds(L, [-1, 2])).toBe(false)
  })
  it('counts corners it passes once', () => {
    expect(holds(L, [2, 4])).toBe(true)
    expect(holds(L, [11, 4])).toBe(false)
  })
})
