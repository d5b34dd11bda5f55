import { describe, expect, it } from 'vitest'

import type { Panel } from '@/api/client'
import { onItsPage, pageOf } from './page'

const panel = { width: 60, height: 40, placements: [{ x: 5, y: 6 }] } as unknown as Panel
const ring = [
  [-2, -3],
  [62, -3],
  [60, 41],
  [0, 41],
]

describe('the page of a panel', () => {
  it('is the panel, or all of what it is cut out of', () => {
    expect(pageOf(panel, null)).toEqual({ left: 0, foot: 0, width: 60, height: 40 })
    expect(pageOf(panel, ring)).toEqual({ left: -2, foot: -3, width: 64, height: 44 })
  })
  it('has everything where it was', () => {
    expect(onItsPage(panel, null)).toBe(panel)
    expect(onItsPage(panel, ring)).toMatchObject({ width: 64, height: 44, placements: [{ x: 7, y: 9 }] })
  })
})
