import * as THREE from 'three'

import { holds } from '@/flat/holds'

/** A place of a print in space: which way it faces, and where the print's coordinates grow there. */
export interface PrintPlace {
  at: THREE.Vector3
  facing: THREE.Vector3
  across: THREE.Vector3
  rise: THREE.Vector3
}

/** Where a place of a print lies in space: in the face around it, or on the nearest corner's. */
export function placeIn(geometry: THREE.BufferGeometry, [x, y]: readonly [number, number]): PrintPlace | null {
  const uv = geometry.getAttribute('uv')
  const index = geometry.getIndex()!
  const corners = new THREE.Triangle()
  const spot = new THREE.Vector3(x, y, 0)
  const share = new THREE.Vector3()
  for (let i = 0; i < index.count; i += 3) {
    const [a, b, c] = [index.getX(i), index.getX(i + 1), index.getX(i + 2)]
    corners.a.set(uv.getX(a), uv.getY(a), 0)
    corners.b.set(uv.getX(b), uv.getY(b), 0)
    corners.c.set(uv.getX(c), uv.getY(c), 0)
    if (!corners.getBarycoord(spot, share) || Math.min(share.x, share.y, share.z) < -1e-6) continue
    const mixed = (name: string) => {
      const values = geometry.getAttribute(name)
      const sum = new THREE.Vector3()
      for (const [corner, weight] of [
        [a, share.x],
        [b, share.y],
        [c, share.z],
      ] as const)
        sum.addScaledVector(new THREE.Vector3().fromBufferAttribute(values, corner), weight)
      return sum
    }
    return { at: mixed('position'), facing: mixed('normal'), ...waysOn(geometry, a, b, c) }
  }
  return null
}

/** In which directions the print's coordinates grow on a face, and how much: mm for all of it. */
function waysOn(geometry: THREE.BufferGeometry, a: number, b: number, c: number) {
  const uv = geometry.getAttribute('uv')
  const place = (i: number) => new THREE.Vector3().fromBufferAttribute(geometry.getAttribute('position'), i)
  const [first, second] = [place(b).sub(place(a)), place(c).sub(place(a))]
  const [u1, v1] = [uv.getX(b) - uv.getX(a), uv.getY(b) - uv.getY(a)]
  const [u2, v2] = [uv.getX(c) - uv.getX(a), uv.getY(c) - uv.getY(a)]
  const area = u1 * v2 - u2 * v1 || 1
  const way = (s: number, t: number) =>
    first
      .clone()
      .multiplyScalar(s / area)
      .addScaledVector(second, t / area)
  return { across: way(v2, -v1), rise: way(-u2, u1) }
}

/** The corners of the faces whose middles lie in an outline on their print. */
export function facesOn(geometry: THREE.BufferGeometry, outline: readonly (readonly [number, number])[]): number[] {
  const uv = geometry.getAttribute('uv')
  const index = geometry.getIndex()!
  const found: number[] = []
  for (let i = 0; i < index.count; i += 3) {
    const corners = [index.getX(i), index.getX(i + 1), index.getX(i + 2)]
    const middle = [0, 1].map((k) => corners.reduce((sum, c) => sum + uv.getComponent(c, k), 0) / 3)
    if (holds(outline, [middle[0]!, middle[1]!])) found.push(...corners)
  }
  return found
}
