import { describe, expect, it } from 'vitest'

import { drawnTo, spanGuides } from './guides'

describe('what is dragged is drawn to guides', () => {
  const guides = [
    { at: 0, name: 'left' },
    { at: 50, name: 'middle' },
  ]
  it('by the edge that is nearest to one', () => {
    expect(drawnTo(39.2, [0, 10, 20], guides, 1)).toEqual({ value: 40, guide: guides[1] })
    expect(drawnTo(-0.4, [0, 10, 20], guides, 1).value).toBe(0)
  })
  it('only within reach', () => {
    expect(drawnTo(20, [0, 10, 20], guides, 1)).toEqual({ value: 20, guide: null })
  })
  it('to both ends and the middle of a span', () => {
    expect(spanGuides(10, 30, 'the body').map((one) => [one.at, one.name])).toEqual([
      [10, 'foot of the body'],
      [30, 'top of the body'],
      [20, 'middle of the body'],
    ])
  })
})
