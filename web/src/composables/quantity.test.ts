import { describe, expect, it } from 'vitest'

import { parseQuantity, showNumber } from './quantity'

describe('parseQuantity', () => {
  it.each([
    ['120', 'mm', 120],
    ['210/2', 'mm', 105],
    ['2 in', 'mm', 50.8],
    ['1,5 cm', 'mm', 15],
    ['(20 + 4) × 2', 'mm', 48],
    ['72 pt', 'mm', 25.4],
    ['0.5 l', 'ml', 500],
    ['33cl', 'ml', 330],
    ['-12', '°', -12],
    ['85 mm', 'mm', 85],
    ['9 W', 'W', 9],
  ])('reads %s as %s', (text, unit, value) => {
    expect(parseQuantity(text, unit)).toBeCloseTo(value, 6)
  })

  it.each(['', 'wide', '2 ells', '1/0', '3 +', '(2', '12 mm mm'])('refuses %j', (text) => {
    expect(parseQuantity(text, 'mm')).toBeNull()
  })
})

describe('showNumber', () => {
  it('drops trailing zeros and keeps the digits asked for', () => {
    expect(showNumber(120)).toBe('120')
    expect(showNumber(148.249)).toBe('148.2')
    expect(showNumber(0.126, 2)).toBe('0.13')
  })
})
