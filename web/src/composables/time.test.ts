import { expect, it } from 'vitest'

import { showDuration } from './time'

it.each([
  [0.2, '1 s'],
  [7.4, '7 s'],
  [42, '40 s'],
  [250, '4 min'],
  [7500, '2 h 5 min'],
])('shows %d seconds as %s', (seconds, words) => {
  expect(showDuration(seconds)).toBe(words)
})
