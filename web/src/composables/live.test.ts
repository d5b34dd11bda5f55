import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'

import { type ProofWish, useLive } from './live'

class Socket {
  static readonly OPEN = 1
  static all: Socket[] = []
  readyState = 0
  sent: string[] = []
  onopen = (): void => undefined
  onclose = (): void => undefined
  onmessage: (message: { data: string }) => void = () => undefined
  constructor(readonly address: string) {
    Socket.all.push(this)
  }
  send(text: string): void {
    this.sent.push(text)
  }
  close(): void {
    this.readyState = 3
    this.onclose()
  }
  open(): void {
    this.readyState = Socket.OPEN
    this.onopen()
  }
}

const wish = (width: number) =>
  ({ shot_id: 1, width, height: 60, packs: { bottle: PACK }, photo_set: SET, shot: SHOT }) as unknown as ProofWish
const [PACK, SET, SHOT] = [{ name: 'pack' }, { name: 'set' }, { name: 'shot' }]
const proofs = (socket: Socket) => socket.sent.map((text) => JSON.parse(text).proof)

describe('the live channel', () => {
  const [onEvent, onReturn] = [vi.fn(), vi.fn()]
  let scope = effectScope()
  let page = new EventTarget()
  const connected = () => scope.run(() => useLive('velloway', onEvent, onReturn))!

  beforeEach(() => {
    vi.useFakeTimers()
    vi.stubGlobal('WebSocket', Socket)
    vi.stubGlobal('location', { protocol: 'http:', host: 'studio' })
    page = new EventTarget()
    vi.stubGlobal('addEventListener', page.addEventListener.bind(page))
    vi.stubGlobal('removeEventListener', page.removeEventListener.bind(page))
    Socket.all = []
    scope = effectScope()
  })
  afterEach(() => {
    scope.stop()
    vi.unstubAllGlobals()
    vi.useRealTimers()
    vi.clearAllMocks()
  })

  it('keeps what a proof waits for until it has come, and what is said of the disk', () => {
    const live = connected()
    const say = (news: object) => Socket.all[0]!.onmessage({ data: JSON.stringify(news) })
    Socket.all[0]!.open()
    say({ type: 'proof-waits', message: 'Waiting for the scheduler.' })
    expect(live.proofWaits.value).toBe('Waiting for the scheduler.')
    say({ type: 'proof-failed', message: 'It died again and again.' })
    expect([live.proofWaits.value, live.proofProblem.value]).toEqual(['', 'It died again and again.'])
    say({ type: 'room', words: 'The disk is nearly full.' })
    expect(live.room.value).toBe('The disk is nearly full.')
    say({ type: 'room', words: '' })
    expect(live.room.value).toBe('')
    expect(onEvent).not.toHaveBeenCalled()
  })

  it('hands on what it hears', () => {
    connected()
    Socket.all[0]!.open()
    const news = { type: 'document', kind: 'pack', id: 3, revision: 5 }
    Socket.all[0]!.onmessage({ data: JSON.stringify(news) })
    expect(onEvent).toHaveBeenCalledWith(news)
    expect(onReturn).not.toHaveBeenCalled()
  })

  it('connects again, says so and asks again for what is wanted', () => {
    const live = connected()
    const [first] = Socket.all
    first!.open()
    live.ask(wish(100))
    first!.close()
    expect(live.connected.value).toBe(false)
    vi.advanceTimersByTime(1000)
    const second = Socket.all[1]!
    second.open()
    expect(onReturn).toHaveBeenCalledOnce()
    expect(proofs(second)[0]).toMatchObject({ width: 100, packs: { bottle: PACK }, photo_set: SET, shot: SHOT })
  })

  it('sends only documents that have changed', () => {
    const live = connected()
    Socket.all[0]!.open()
    live.ask(wish(100))
    live.ask({ ...wish(100), shot: { name: 'nearer' } } as unknown as ProofWish)
    expect(proofs(Socket.all[0]!)[1]).toEqual({
      number: 2,
      shot_id: 1,
      width: 100,
      height: 60,
      packs: {},
      shot: { name: 'nearer' },
    })
  })

  it('stays away once the page is left', () => {
    connected()
    Socket.all[0]!.open()
    scope.stop()
    vi.advanceTimersByTime(5000)
    expect(Socket.all).toHaveLength(1)
  })

  it('leaves a page that the browser keeps, and catches up when one comes back to it', () => {
    connected().ask(wish(100))
    Socket.all[0]!.open()
    page.dispatchEvent(new Event('pagehide'))
    vi.advanceTimersByTime(5000)
    expect(Socket.all[0]!.readyState).toBe(3)
    expect(Socket.all).toHaveLength(1)
    page.dispatchEvent(Object.assign(new Event('pageshow'), { persisted: true }))
    Socket.all[1]!.open()
    expect(onReturn).toHaveBeenCalledOnce()
    expect(proofs(Socket.all[1]!)[0]).toMatchObject({ width: 100 })
  })

  it('connects once when a page is shown for the first time', () => {
    connected()
    page.dispatchEvent(Object.assign(new Event('pageshow'), { persisted: false }))
    expect(Socket.all).toHaveLength(1)
  })
})
