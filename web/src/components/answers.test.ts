import { describe, expect, it } from 'vitest'

import type { ClientAnswer } from '@/api/client'
import { pinsOf, verdictOf } from './answers'

const said = (verdict: ClientAnswer['verdict'], x: number | null = null): ClientAnswer => ({
  verdict,
  name: 'Rosa',
  remark: 'Darker',
  x,
  y: x,
  created: '2026-01-01T00:00:00Z',
})

describe('answers', () => {
  it('stand at the last word', () => {
    expect(verdictOf([])).toBe(null)
    expect(verdictOf([said('approved'), said('changes')])).toBe('changes')
    expect(verdictOf([said('changes'), said('approved')])).toBe('approved')
  })

  it('are pinned where they mean a place, numbered as they came', () => {
    const pins = pinsOf([said('approved'), said('changes', 0), said('changes', 0.5)])
    expect(pins.map((pin) => [pin.mark, pin.x])).toEqual([
      ['2', 0],
      ['3', 0.5],
    ])
  })
})
