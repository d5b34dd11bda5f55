import * as THREE from 'three'

import { holds } from '@/flat/holds'

/** Where a place of a print lies in space: in the face around it, or on the nearest corner's. */
export function placeIn(
  geometry: THREE.BufferGeometry,
  [x, y]: readonly [number, number],
): { at: THREE.Vector3; facing: THREE.Vector3 } | null {
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
    return { at: mixed('position'), facing: mixed('normal') }
  }
  return null
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
