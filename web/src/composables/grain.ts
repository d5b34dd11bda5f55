import { reactive } from 'vue'

import type { Grain } from '@/api/client'

export type Place3 = readonly [number, number, number]
export type Place2 = readonly [number, number]

/** Where on a pack a grain is shown: on a part, or at a place of a panel's print, 0 to 1. */
export interface GrainPlace {
  part: string
  panel?: number
  on?: Place2
}

/** The grain that is turned on the pack, and where its arrows are. */
export const grainInHand = reactive<{ held: { of: symbol; place: GrainPlace; grain: Grain } | null }>({ held: null })
const turns = new Map<symbol, (degrees: number) => void>()

/** Show a grain on the pack; `turn` is told by how many degrees it was turned. */
export function holdGrain(of: symbol, place: GrainPlace, grain: Grain, turn: (degrees: number) => void): void {
  turns.clear()
  turns.set(of, turn)
  grainInHand.held = { of, place, grain }
}
export function letGoOfGrain(of?: symbol): void {
  if (of && grainInHand.held?.of !== of) return
  turns.clear()
  grainInHand.held = null
}
export function turnGrain(degrees: number): void {
  if (grainInHand.held) turns.get(grainInHand.held.of)?.(degrees)
}

/** Where a surface faces more up than this, what is wrapped around lies flat on it; as in the core. */
const LEVEL = 0.7071

/** To the right and up on a pattern, at a place from the part's axis that faces somewhere; as in the core. */
export function axesAt(lies: Grain['lies'], [x, y]: Place3, [nx, ny, nz]: Place3): { right: Place3; up: Place3 } {
  const facing = nz > 0 ? 1 : -1
  if (lies === 'through') return { right: [1, 0, 0], up: [0, 0, 1] }
  if (lies === 'around') {
    if (Math.abs(nz) > LEVEL) return { right: [1, 0, 0], up: [0, facing, 0] }
    const reach = Math.hypot(x, y) || 1e-3
    return { right: [-y / reach, x / reach, 0], up: [0, 0, 1] }
  }
  const most = Math.max(Math.abs(nx), Math.abs(ny), Math.abs(nz))
  if (Math.abs(nx) === most) return { right: [0, nx > 0 ? 1 : -1, 0], up: [0, 0, 1] }
  if (Math.abs(ny) === most) return { right: [ny > 0 ? -1 : 1, 0, 0], up: [0, 0, 1] }
  return { right: [1, 0, 0], up: [0, facing, 0] }
}

/** px that a grain's arrow reaches to either side. */
export const REACH_PX = 44

/** The way a turned grain runs as it is seen, px; `right` and `up` are how a mm of either is seen. */
export function seenWay(turn: number, right: Place2, up: Place2): Place2 {
  const angle = (turn * Math.PI) / 180
  const x = right[0] * Math.cos(angle) + up[0] * Math.sin(angle)
  const y = right[1] * Math.cos(angle) + up[1] * Math.sin(angle)
  const length = Math.hypot(x, y) || 1
  return [(x / length) * REACH_PX, (y / length) * REACH_PX]
}

/** Degrees by which a grain is turned that runs, as it is seen, so; null where that cannot be told. */
export function turnOf(way: Place2, right: Place2, up: Place2): number | null {
  const area = right[0] * up[1] - right[1] * up[0]
  if (Math.abs(area) < 1e-6) return null
  const across = (way[0] * up[1] - way[1] * up[0]) / area
  const rise = (right[0] * way[1] - right[1] * way[0]) / area
  return (Math.atan2(rise, across) * 180) / Math.PI
}

/** A turn by whole degrees, between −90 and 90, as a grain has no front; drawn to steps of 45. */
export function settled(turn: number, free: boolean): number {
  const half = (((turn % 180) + 270) % 180) - 90
  const step = Math.round(half / 45) * 45
  const found = !free && Math.abs(half - step) < 5 ? step : Math.round(half)
  return found === -90 ? 90 : found
}
