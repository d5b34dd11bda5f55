import * as THREE from 'three'
import { describe, expect, it } from 'vitest'

import { facesOn, placeIn } from './onPrints'

/** A sheet of 20 × 10 mm that stands upright, printed all over. */
function sheet(): THREE.BufferGeometry {
  const geometry = new THREE.BufferGeometry()
  const places = [0, 0, 0, 20, 0, 0, 20, 0, 10, 0, 0, 10]
  geometry.setAttribute('position', new THREE.Float32BufferAttribute(places, 3))
  geometry.setAttribute('normal', new THREE.Float32BufferAttribute([0, -1, 0, 0, -1, 0, 0, -1, 0, 0, -1, 0], 3))
  geometry.setAttribute('uv', new THREE.Float32BufferAttribute([0, 0, 1, 0, 1, 1, 0, 1], 2))
  geometry.setIndex([0, 1, 2, 0, 2, 3])
  return geometry
}

describe('places on prints', () => {
  it('are found in space, with the way they face', () => {
    for (const [x, y] of [
      [0.25, 0.1],
      [0.1, 0.9],
      [1, 1],
    ] as const) {
      const found = placeIn(sheet(), [x, y])!
      expect(found.at.toArray().map((v) => Number(v.toFixed(6)))).toEqual([20 * x, 0, 10 * y])
      expect(found.facing.y).toBeCloseTo(-1)
      expect([found.across.toArray(), found.rise.toArray()]).toEqual([
        [20, 0, 0],
        [0, 0, 10],
      ])
    }
  })
  it('are none beside the print', () => {
    expect(placeIn(sheet(), [1.2, 0.5])).toBeNull()
  })
  it('carry the faces whose middles lie in an outline', () => {
    const lower = [
      [0, 0],
      [1, 0],
      [1, 0.5],
    ] as const
    expect(facesOn(sheet(), lower)).toEqual([0, 1, 2])
  })
})
