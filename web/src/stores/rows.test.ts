import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'

import { api } from '@/api/client'
import type { Saved } from './documents'
import { draftOfRow } from './rows'

const row: Saved<{ size: number }> = {
  id: 3,
  key: 'bottle',
  name: 'Bottle',
  revision: 1,
  can_undo: false,
  can_redo: false,
  made: '2026-01-01',
  document: { size: 1 },
}

beforeEach(() => vi.useFakeTimers())
afterEach(() => {
  vi.useRealTimers()
  vi.restoreAllMocks()
})

describe('a draft of a row', () => {
  it('is saved after what it refers to', async () => {
    const done: string[] = []
    vi.spyOn(api, 'PUT').mockImplementation(async () => {
      done.push('the pack')
      return { data: { ...row, revision: 2 }, response: new Response() } as never
    })
    const palette = () =>
      new Promise<void>((then) =>
        setTimeout(() => {
          done.push('the palette')
          then()
        }, 900),
      )
    const draft = draftOfRow('packs', row, async () => row, palette)
    draft.edit((d) => (d.size = 2))
    await vi.advanceTimersByTimeAsync(600)
    expect(done).toEqual([])
    await vi.advanceTimersByTimeAsync(1000)
    expect(done).toEqual(['the palette', 'the pack'])
  })
})
