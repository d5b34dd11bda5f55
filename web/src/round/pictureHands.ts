import { Vector2 } from 'three'

/** What hands do on a picture of the set. Shares are of its width and height. */
export interface PictureDoes {
  /** Whether the hand says a place, rather than moving anything. */
  pointing: () => boolean
  /** What is met at a place, −1..1 to the right and up, and whether it can be carried. */
  met: (at: Vector2) => { id: string; carried: boolean } | null
  /** Where on the floor that is, mm. */
  onFloor: (at: Vector2) => { x: number; y: number } | null
  /** A place, 0..1 from the left and the top. */
  point: (at: { x: number; y: number }) => void
  choose: (id: string, too: boolean) => void
  carry: (id: string, dx: number, dy: number, done: boolean) => void
  /** Degrees around, mm up. */
  orbit: (turn: number, rise: number) => void
  /** By shares of the picture, to the right and down. */
  pan: (right: number, down: number) => void
  /** By a factor of the distance. */
  nearer: (factor: number) => void
}

const TURN_PER_PX = 0.35
const RISE_PER_PX = 1.2
const TURN_PER_SCROLLED_PX = 0.12
/** A wheel's notch is told as some 100 px by browsers, or as lines or pages. */
const PX_OF_LINE = 33
const PX_OF_PAGE = 300
const MOST_SCROLLED_PX = 120
const NEARER_PER_PX = 0.0004
const NEARER_PER_PINCHED_PX = 0.01
const TURN_BY_KEY = 2
const RISE_BY_KEY = 10
const PAN_BY_KEY = 0.02
const NEARER_BY_KEY = 1.04

interface At {
  x: number
  y: number
}

/** A place of an element, −1..1 to the right and up. */
export function within(event: PointerEvent | DragEvent): Vector2 {
  const box = (event.currentTarget as Element).getBoundingClientRect()
  return new Vector2(((event.clientX - box.left) / box.width) * 2 - 1, 1 - ((event.clientY - box.top) / box.height) * 2)
}

/** A place of an element, 0..1 from its left and its top, at its edge when the hand is beyond it. */
export function shareWithin(event: PointerEvent): { x: number; y: number } {
  const { x, y } = within(event)
  const share = (v: number) => Math.min(Math.max(v, 0), 1)
  return { x: share((x + 1) / 2), y: share((1 - y) / 2) }
}

/** How much nearer a wheel or two fingers on a pad step, as a factor, or how far they turn around in degrees. */
export function scrolled(event: Pick<WheelEvent, 'deltaX' | 'deltaY' | 'deltaMode' | 'ctrlKey'>): {
  nearer?: number
  turn?: number
} {
  const px = [1, PX_OF_LINE, PX_OF_PAGE][event.deltaMode] ?? 1
  const most = (v: number) => Math.min(Math.max(v * px, -MOST_SCROLLED_PX), MOST_SCROLLED_PX)
  const [x, y] = [most(event.deltaX), most(event.deltaY)]
  if (event.ctrlKey) return { nearer: Math.exp(y * NEARER_PER_PINCHED_PX) }
  if (Math.abs(x) > Math.abs(y)) return { turn: x * TURN_PER_SCROLLED_PX }
  return { nearer: Math.exp(y * NEARER_PER_PX) }
}

/**
 * What mouse, pen, fingers and keys do on a picture: one hand turns around it, carries what is chosen, or points;
 * with the right or the middle button, or with two fingers, the picture is moved; a pinch steps nearer.
 */
export function usePictureHands(does: PictureDoes) {
  /** Fingers on it. */
  const fingers = new Map<number, At>()
  let held: { at: At; pans: boolean } | null = null
  /** What is carried, and where on the floor it was taken hold of. */
  let thing: { id: string; from: At; dx: number; dy: number } | null = null

  const place = (event: PointerEvent): At => ({ x: event.clientX, y: event.clientY })

  function down(event: PointerEvent): void {
    const element = event.currentTarget as Element
    element.setPointerCapture(event.pointerId)
    if (event.pointerType === 'touch') fingers.set(event.pointerId, place(event))
    if (fingers.size > 1) return letGo()
    if (does.pointing()) return does.point(shareWithin(event))
    const at = within(event)
    held = { at: place(event), pans: event.button === 1 || event.button === 2 }
    if (held.pans) return
    const met = does.met(at)
    const from = does.onFloor(at)
    thing = met?.carried && from ? { id: met.id, from, dx: 0, dy: 0 } : null
    if (met && !thing) does.choose(met.id, event.shiftKey)
  }
  function letGo(): void {
    if (thing && (thing.dx || thing.dy)) does.carry(thing.id, thing.dx, thing.dy, true)
    thing = held = null
  }
  function up(event: PointerEvent): void {
    fingers.delete(event.pointerId)
    letGo()
  }
  function drag(event: PointerEvent): void {
    if (fingers.size > 1) return pinch(event)
    if (does.pointing()) {
      if (event.buttons) does.point(shareWithin(event))
      return
    }
    if (thing) return carry(thing, does.onFloor(within(event)))
    if (!held) return
    const [now, { at: before, pans }] = [place(event), held]
    held.at = now
    if (pans) pan(event, now.x - before.x, now.y - before.y)
    else does.orbit(-(now.x - before.x) * TURN_PER_PX, (now.y - before.y) * RISE_PER_PX)
  }
  function carry(one: NonNullable<typeof thing>, at: At | null): void {
    if (!at) return
    one.dx = Math.round(at.x - one.from.x)
    one.dy = Math.round(at.y - one.from.y)
    does.carry(one.id, one.dx, one.dy, false)
  }
  function pan(event: PointerEvent, dx: number, dy: number): void {
    const box = (event.currentTarget as Element).getBoundingClientRect()
    does.pan(dx / box.width, dy / box.height)
  }
  function pinch(event: PointerEvent): void {
    if (!fingers.has(event.pointerId)) return
    const other = [...fingers].find(([id]) => id !== event.pointerId)![1]
    const [before, now] = [fingers.get(event.pointerId)!, place(event)]
    fingers.set(event.pointerId, now)
    const apart = (at: At) => Math.max(Math.hypot(at.x - other.x, at.y - other.y), 1)
    does.nearer(apart(before) / apart(now))
    pan(event, (now.x - before.x) / 2, (now.y - before.y) / 2)
  }
  function wheel(event: WheelEvent): void {
    const { nearer, turn } = scrolled(event)
    if (nearer) does.nearer(nearer)
    if (turn) does.orbit(turn, 0)
  }
  const KEYS: Record<string, [right: number, down: number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  }
  function key(event: KeyboardEvent): void {
    const way = KEYS[event.key]
    if (way && event.shiftKey) does.pan(-way[0] * PAN_BY_KEY, -way[1] * PAN_BY_KEY)
    else if (way) does.orbit(way[0] * TURN_BY_KEY, -way[1] * RISE_BY_KEY)
    else if (event.key === '+') does.nearer(1 / NEARER_BY_KEY)
    else if (event.key === '-') does.nearer(NEARER_BY_KEY)
    else return
    event.preventDefault()
  }
  return { down, up, drag, wheel, key }
}
