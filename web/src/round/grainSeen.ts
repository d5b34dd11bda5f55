import * as THREE from 'three'

import { axesAt, type GrainPlace, type Place2 } from '@/composables/grain'
import type { AnyShape, Grain } from '@/api/client'
import { placeIn } from './onPrints'
import { geometryOf, type PackInTheRound, printOf } from './packInTheRound'

/** Where a grain is seen, px, and how a mm to the right and up on its pattern is seen there. */
export interface SeenGrain {
  at: Place2
  right: Place2
  up: Place2
}

/** A grain on a part as a camera sees it on a canvas; null where the part is not to be seen. */
export function seenGrain(
  place: GrainPlace,
  lies: Grain['lies'],
  pack: PackInTheRound,
  camera: THREE.Camera,
  canvas: HTMLCanvasElement,
): SeenGrain | null {
  camera.updateMatrixWorld()
  const spot = pack.spotOf(place, camera)
  if (!spot) return null
  const { width, height } = canvas.getBoundingClientRect()
  const { at, facing, from } = spot
  const axes = axesAt(lies, [at.x - from.x, at.y - from.y, at.z], [facing.x, facing.y, facing.z])
  const seen = (way: readonly [number, number, number]): Place2 => {
    const there = pack.toWorld(at.clone().add(new THREE.Vector3(...way))).project(camera)
    return [((there.x + 1) / 2) * width, ((1 - there.y) / 2) * height]
  }
  const middle = seen([0, 0, 0])
  const wayOf = (way: readonly [number, number, number]): Place2 => {
    const [x, y] = seen(way)
    return [x - middle[0], y - middle[1]]
  }
  return { at: middle, right: wayOf(axes.right), up: wayOf(axes.up) }
}

/** A grain on a blank laid flat: where, mm, and how a mm to the right and up on its pattern lies there. */
export function flatGrain({ panel, on }: GrainPlace, lies: Grain['lies'], shape: AnyShape): SeenGrain | null {
  if (shape.kind !== 'carton' || panel === undefined || !on) return null
  const size = shape.blanks[panel]?.size
  if (!size) return null
  for (const surface of shape.surfaces) {
    if (printOf(shape, surface.panel) !== panel) continue
    const geometry = geometryOf(surface.mesh)
    const found = placeIn(geometry, on)
    geometry.dispose()
    if (!found) continue
    const { at, facing, across, rise } = found
    const axes = axesAt(lies, [at.x, at.y, at.z], [facing.x, facing.y, facing.z])
    const flat = (way: readonly [number, number, number]): Place2 => {
      const vector = new THREE.Vector3(...way)
      return [vector.dot(across) / across.length(), vector.dot(rise) / rise.length()]
    }
    return { at: [on[0] * size[0], on[1] * size[1]], right: flat(axes.right), up: flat(axes.up) }
  }
  return null
}
