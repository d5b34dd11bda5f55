import { onScopeDispose, ref, shallowRef } from 'vue'

import {
  type Colourway,
  type Material,
  NO_ANSWER,
  type OrderNews,
  type Pack,
  type Palette,
  type PhotoSet,
  type Shot,
  type Thumbnail,
} from '@/api/client'

const RECONNECT_MS = 1000

/** What is said about a proof picture. */
export interface ProofNews {
  number: number
  samples: number
  noise: number | null
  seconds: number
  last: boolean
}

/** One pack in neutral light, seen as its drawing is; mm and degrees. */
export interface BenchView {
  pack: string
  turn: number
  azimuth: number
  distance: number
  height: number
  aim_height: number
  vertical_angle: number
}

/** A part of a picture, in px from its left and top. */
export interface PixelPart {
  left: number
  top: number
  width: number
  height: number
}

export interface ProofWish {
  /** Of the whole picture. */
  width: number
  height: number
  /** What of it is wanted, if not all. */
  part?: PixelPart
  packs: Record<string, Pack>
  palette: Palette
  /** A pack on the bench, or a shot of a set. */
  bench?: BenchView
  shot_id?: number
  photo_set?: PhotoSet
  shot?: Shot
  /** The colourway it is taken in, by its key and as it is on the page. */
  colourway?: string | null
  dress?: Colourway | null
}

/** What a part has to be made of to look like a colour, how it looks then, and ΔE₀₀ from what was asked for. */
export interface Matched {
  material: Material
  seen: string
  off: number
  why: string
  problem: string
}

export type LiveEvent =
  | { type: 'order'; job: number; order: OrderNews }
  | { type: 'document'; kind: 'pack' | 'set' | 'shot' | 'palette' | 'colourway'; id: number; revision: number }
  | { type: 'rows'; kind: string }
  | { type: 'answer'; picture: number }
  | ({ type: 'thumbnail' } & Thumbnail)
  | { type: 'proof-failed'; message: string; number?: number }
  | { type: 'proof-waits'; message: string }
  | { type: 'room'; words: string }
  | ({ type: 'matched'; number: number } & Partial<Matched>)
  /** What stands in the light of a set-up, as an address that holds the picture. */
  | { type: 'set-up'; what: string; picture: string }

/**
 * The live channel of a job: events come out, proof wishes go in. It connects again by itself and says
 * so, as events may have been missed.
 */
export function useLive(slug: string, onEvent: (event: LiveEvent) => void, onReturn: () => void) {
  const connected = ref(false)
  const proof = shallowRef<(ProofNews & { address: string; picture: Blob }) | null>(null)
  const proofProblem = ref('')
  const proofWaits = ref('')
  const room = ref('')
  const setUps = ref<Record<string, string>>({})
  let socket: WebSocket | null = null
  let wanted: ProofWish | null = null
  let known: Partial<ProofWish> = {}
  let number = 0
  let matching = 0
  const matches = new Map<number, (found: Partial<Matched>) => void>()
  let closed = false
  let lost = false

  function connect(): void {
    const scheme = location.protocol === 'https:' ? 'wss' : 'ws'
    socket = new WebSocket(`${scheme}://${location.host}/live/jobs/${slug}`)
    socket.binaryType = 'arraybuffer'
    socket.onopen = () => {
      connected.value = true
      if (lost) onReturn()
      lost = false
      known = {}
      if (wanted) send(wanted)
    }
    socket.onmessage = (message: MessageEvent<string | ArrayBuffer>) => {
      if (typeof message.data === 'string') hear(JSON.parse(message.data) as LiveEvent)
      else show(message.data)
    }
    socket.onclose = () => {
      connected.value = false
      lost = true
      for (const resolve of matches.values()) resolve({ problem: NO_ANSWER })
      matches.clear()
      if (!closed) setTimeout(connect, RECONNECT_MS)
    }
  }

  function hear(event: LiveEvent): void {
    if (event.type === 'proof-failed') {
      proofProblem.value = event.message
      proofWaits.value = ''
    } else if (event.type === 'proof-waits') proofWaits.value = event.message
    else if (event.type === 'room') room.value = event.words
    else if (event.type === 'set-up') setUps.value = { ...setUps.value, [event.what]: event.picture }
    else if (event.type === 'matched') {
      matches.get(event.number)?.(event)
      matches.delete(event.number)
    } else onEvent(event)
  }

  function show(data: ArrayBuffer): void {
    const length = new DataView(data).getUint32(0)
    const news = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length))) as ProofNews
    if (news.number !== number || !wanted) return
    forget()
    const picture = new Blob([new Uint8Array(data, 4 + length)], { type: 'image/jpeg' })
    proof.value = { ...news, picture, address: URL.createObjectURL(picture) }
    proofProblem.value = proofWaits.value = ''
  }

  function forget(): void {
    if (proof.value) URL.revokeObjectURL(proof.value.address)
    proof.value = null
  }

  /** Ask for a proof of documents as they are now; it refines until something else is asked. */
  function ask(wish: ProofWish): void {
    number += 1
    wanted = wish
    if (socket?.readyState === WebSocket.OPEN) send(wish)
  }

  /** Send a wish, leaving out the documents that the server has from the one before. */
  function send(wish: ProofWish): void {
    const { packs, photo_set, shot, palette, ...rest } = wish
    const changed = Object.entries(packs).filter(([key, pack]) => pack !== known.packs?.[key])
    const proof = {
      ...rest,
      number,
      packs: Object.fromEntries(changed),
      photo_set: photo_set === known.photo_set ? undefined : photo_set,
      shot: shot === known.shot ? undefined : shot,
      palette: palette === known.palette ? undefined : palette,
    }
    socket?.send(JSON.stringify({ type: 'proof', proof }))
    known = wish
  }

  /** Find what a part of the pack in the proof has to be made of to look like a colour of it. */
  function match(part: string, material: Material, target: string): Promise<Partial<Matched>> {
    matching += 1
    const match = { number: matching, part, material, target }
    if (socket?.readyState !== WebSocket.OPEN) return Promise.resolve({ problem: NO_ANSWER })
    socket.send(JSON.stringify({ type: 'match', match }))
    return new Promise((resolve) => matches.set(match.number, resolve))
  }

  /** Have what stands pictured in the light of every set-up; they come one by one. */
  function lightAll(): void {
    if (socket?.readyState === WebSocket.OPEN) socket.send(JSON.stringify({ type: 'set-ups' }))
  }

  /** Stop refining. What has come stays. */
  function hold(): void {
    wanted = null
    if (socket?.readyState === WebSocket.OPEN) socket.send(JSON.stringify({ type: 'hold' }))
  }

  /** A page that is left may be kept whole by the browser, with its connection, in case one comes back. */
  function leave(): void {
    closed = true
    socket?.close()
  }
  function comeBack(event: PageTransitionEvent): void {
    if (!event.persisted) return
    closed = false
    connect()
  }
  addEventListener('pagehide', leave)
  addEventListener('pageshow', comeBack)
  onScopeDispose(() => {
    removeEventListener('pagehide', leave)
    removeEventListener('pageshow', comeBack)
    forget()
    leave()
  })
  connect()
  return { connected, proof, proofProblem, proofWaits, room, setUps, ask, match, lightAll, hold }
}

export type Live = ReturnType<typeof useLive>
