import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { api, type Thumbnail } from '@/api/client'
import { useThumbnails } from './thumbnails'

const one = (shot: string, colourway: string, at = 'a1'): Thumbnail => ({
  shot,
  colourway,
  at,
  fresh: true,
  problem: '',
})
const listed = (found: Thumbnail[]) =>
  vi.spyOn(api, 'GET').mockResolvedValue({ data: found, response: { ok: true } } as never)

describe('thumbnails', () => {
  beforeEach(() => setActivePinia(createPinia()))

  it('are found by shot and colourway, at an address that changes with them', async () => {
    listed([one('hero', ''), one('hero', 'damson', 'b2')])
    const thumbnails = useThumbnails()
    await thumbnails.load('velloway')
    expect(thumbnails.of({ id: 7, key: 'hero' }, 'damson')).toEqual({
      address: '/api/shots/7/thumbnail.jpg?colourway=damson&at=b2',
      fresh: true,
    })
    expect(thumbnails.of({ id: 7, key: 'hero' }, 'pear')).toBeNull()
  })

  it('take news of one and leave the others', async () => {
    listed([one('hero', ''), one('range', '')])
    const thumbnails = useThumbnails()
    await thumbnails.load('velloway')
    thumbnails.hear({ ...one('range', '', ''), problem: 'It stands on nothing.' })
    expect(thumbnails.of({ id: 8, key: 'range' }, '')).toBeNull()
    expect(thumbnails.problem('range', '')).toBe('It stands on nothing.')
    expect(thumbnails.of({ id: 7, key: 'hero' }, '')?.fresh).toBe(true)
  })

  it('are looked at once for several saves', async () => {
    vi.useFakeTimers()
    const asked = listed([])
    asked.mockClear()
    const thumbnails = useThumbnails()
    await thumbnails.load('velloway')
    for (let n = 0; n < 3; n++) void thumbnails.documentsChanged()
    await vi.advanceTimersByTimeAsync(1000)
    expect(asked).toHaveBeenCalledTimes(2)
    vi.useRealTimers()
  })
})
