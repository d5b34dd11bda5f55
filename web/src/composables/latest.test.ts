import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { latest } from './latest'

beforeEach(() => vi.useFakeTimers())
afterEach(() => vi.useRealTimers())

describe('latest', () => {
  it('skips what a moving hand passes over and shows the rest in order', async () => {
    const worked: number[] = []
    const shown: number[] = []
    const go = latest(
      async (n: number) => {
        worked.push(n)
        await new Promise((resolve) => setTimeout(resolve, 5))
        return n
      },
      (n) => shown.push(n),
      () => undefined,
    )
    go(1)
    go(2)
    go(3)
    await vi.advanceTimersByTimeAsync(40)
    expect(worked).toEqual([1, 3])
    expect(shown).toEqual([1, 3])
  })

  it('goes on after an error', async () => {
    const errors: unknown[] = []
    const shown: number[] = []
    const go = latest(
      async (n: number) => {
        if (n === 1) throw new Error('no')
        return n
      },
      (n) => shown.push(n),
      (e) => errors.push(e),
    )
    go(1)
    await vi.advanceTimersByTimeAsync(5)
    go(2)
    await vi.advanceTimersByTimeAsync(5)
    expect(errors).toHaveLength(1)
    expect(shown).toEqual([2])
  })
})
