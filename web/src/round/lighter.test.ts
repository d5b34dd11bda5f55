import * as THREE from 'three'
import { describe, expect, it } from 'vitest'

import { cellFor, lighter, MOST_TRIANGLES } from './lighter'

const count = (geometry: THREE.BufferGeometry) => geometry.getIndex()!.count / 3

describe('what many things are drawn with', () => {
  it('has fewer triangles of about the same shape', () => {
    const ball = new THREE.SphereGeometry(40, 96, 64)
    const light = lighter(ball, 8)
    expect(count(light)).toBeLessThan(count(ball) / 8)
    expect(count(light)).toBeGreaterThan(200)
    ball.computeBoundingBox()
    light.computeBoundingBox()
    expect(light.boundingBox!.min.distanceTo(ball.boundingBox!.min)).toBeLessThan(8)
    const [places, facing] = [light.getAttribute('position'), light.getAttribute('normal')]
    expect(places.count).toBeLessThan(count(light))
    for (let i = 0; i < places.count; i++) {
      const place = new THREE.Vector3().fromBufferAttribute(places, i)
      expect(place.length()).toBeCloseTo(40, 3)
      expect(place.normalize().dot(new THREE.Vector3().fromBufferAttribute(facing, i))).toBeCloseTo(1, 3)
    }
    expect(Math.max(...light.getIndex()!.array)).toBe(places.count - 1)
  })
  it('keeps its prints where they are', () => {
    const sheet = new THREE.PlaneGeometry(100, 50, 40, 20)
    const light = lighter(sheet, 12)
    const [places, on] = [light.getAttribute('position'), light.getAttribute('uv')]
    for (let i = 0; i < places.count; i++) expect(on.getX(i)).toBeCloseTo(places.getX(i) / 100 + 0.5)
  })
  it('can be lost altogether when it is smaller than what is told apart', () => {
    expect(count(lighter(new THREE.SphereGeometry(1, 12, 8), 20))).toBe(0)
  })
  it('has triangles as large as need be', () => {
    expect(cellFor(() => MOST_TRIANGLES)).toBe(0)
    expect(cellFor((cell) => MOST_TRIANGLES * (cell < 5 ? 2 : 1))).toBe(5)
    expect(cellFor(() => Infinity)).toBe(32)
  })
})
