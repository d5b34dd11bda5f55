import { describe, expect, it } from 'vitest'

import type { PhotoSet } from '@/api/client'
import { outermost, shift, together } from './moving'

const set = () =>
  ({
    standing: [
      { id: 'a', group: 'inner', pose: { x: 1, y: 2 } },
      { id: 'b', group: 'outer', pose: { x: 5 } },
      { id: 'c', group: null },
    ],
    groups: { inner: { name: 'I', group: 'outer' }, outer: { name: 'O', pose: { x: 10, y: 0 } } },
  }) as unknown as PhotoSet

describe('moving what stands', () => {
  it('finds the group that moves', () => {
    expect(outermost(set(), 'a').group).toBe('outer')
    expect(outermost(set(), 'c').group).toBe(null)
    expect(together(set(), ['a'])).toEqual(['a', 'b'])
  })

  it('moves a group once, and what is alone by itself', () => {
    const moved = set()
    shift(moved, ['a', 'b', 'c'], 7.5, -3)
    expect(moved.groups!.outer!.pose).toMatchObject({ x: 17.5, y: -3 })
    expect(moved.standing![0]!.pose).toEqual({ x: 1, y: 2 })
    expect(moved.standing![2]!.pose).toMatchObject({ x: 7.5, y: -3 })
  })
})
