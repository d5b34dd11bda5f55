import { describe, expect, it, vi } from 'vitest'

import { shareAfter, timed } from './pace'

describe('the pace of drawing', () => {
  it('takes fewer pixels for what is slow, and all of them for what is quick', () => {
    expect(shareAfter(1, 20)).toBe(1)
    expect(shareAfter(1, 60)).toBe(1)
    expect(shareAfter(1, 160)).toBeCloseTo(Math.SQRT1_2)
    expect(shareAfter(1, 10_000)).toBe(0.6)
    expect(shareAfter(0.5, 10_000)).toBe(0.4)
    expect(shareAfter(0.5, 10)).toBeCloseTo(0.65)
    expect(shareAfter(0.9, 10)).toBe(1)
  })
  it('is told by the graphics, not by when they were asked', async () => {
    vi.useFakeTimers()
    let done = false
    const context = {
      SYNC_GPU_COMMANDS_COMPLETE: 1,
      TIMEOUT_EXPIRED: 2,
      fenceSync: () => ({}),
      flush: () => undefined,
      isContextLost: () => false,
      clientWaitSync: () => (done ? 3 : 2),
      deleteSync: vi.fn(),
    }
    const told: number[] = []
    timed(context as unknown as WebGL2RenderingContext, (took) => told.push(took))
    await vi.advanceTimersByTimeAsync(100)
    expect(told).toEqual([])
    done = true
    await vi.advanceTimersByTimeAsync(10)
    expect(told).toHaveLength(1)
    expect(told[0]).toBeGreaterThanOrEqual(100)
    expect(context.deleteSync).toHaveBeenCalledOnce()
    vi.useRealTimers()
  })
})
