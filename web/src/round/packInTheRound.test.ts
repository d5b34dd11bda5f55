import * as THREE from 'three'
import { describe, expect, it, vi } from 'vitest'

import type { Shape } from '@/api/client'
import { PackInTheRound } from './packInTheRound'

const text = (values: Float32Array | Int8Array | Uint16Array) =>
  btoa(String.fromCharCode(...new Uint8Array(values.buffer)))
const triangle = (high: number) => ({
  positions: text(new Float32Array([0, 0, 0, 1, 0, 0, 0, 0, high])),
  normals: text(new Int8Array([0, -127, 0, 0, -127, 0, 0, -127, 0])),
  uvs: null,
  faces: text(new Uint16Array([0, 1, 2])),
  wide: false,
})
const glass = { kind: 'clear', colour: '#ffffff', depth: 100, frost: 0, density: 2.5 }
const lacquer = (colour: string) => ({ kind: 'opaque', colour, gloss: 0.5, density: 1 })
const shape = (high: number, capColour: string) =>
  ({
    kind: 'vessel',
    facts: { depth: 70 },
    surfaces: [
      {
        name: 'body',
        part: 'body',
        group: 'body',
        panel: null,
        material: glass,
        colour: '#ffffff',
        before: null,
        mesh: triangle(high),
      },
      {
        name: 'cap',
        part: 'cap',
        group: 'closure',
        panel: null,
        material: lacquer(capColour),
        colour: capColour,
        before: null,
        mesh: triangle(2),
      },
    ],
  }) as unknown as Shape
const found = (round: PackInTheRound, name: string) => round.group.getObjectByName(name) as THREE.Mesh

describe('a pack in the round', () => {
  it('stands as the core says', () => {
    const round = new PackInTheRound()
    round.show(shape(9, '#aa0000'), [])
    const places = found(round, 'body').geometry.getAttribute('position')
    expect([places.getX(1), places.getZ(2)]).toEqual([1, 9])
  })
  it('keeps what did not change, and every material', () => {
    const round = new PackInTheRound()
    round.show(shape(9, '#aa0000'), [])
    const [body, cap] = [found(round, 'body'), found(round, 'cap')]
    const gone = vi.spyOn(body.geometry, 'dispose')
    round.show(shape(10, '#aa0000'), [])
    expect(found(round, 'cap')).toBe(cap)
    expect(found(round, 'body')).not.toBe(body)
    expect(found(round, 'body').material).toBe(body.material)
    expect(gone).toHaveBeenCalledOnce()
    expect(round.group.children[0]!.children).toHaveLength(2)
  })
  it('lets go of a material only once another has been drawn in its place', () => {
    const round = new PackInTheRound()
    round.show(shape(9, '#aa0000'), [])
    const gone = vi.spyOn(found(round, 'cap').material as THREE.Material, 'dispose')
    round.show(shape(9, '#00aa00'), [])
    expect(gone).not.toHaveBeenCalled()
    round.show(shape(10, '#00aa00'), [])
    expect(gone).toHaveBeenCalledOnce()
  })
  it('frees everything in the end', () => {
    const round = new PackInTheRound()
    round.show(shape(9, '#aa0000'), [])
    const cap = found(round, 'cap')
    const gone = [vi.spyOn(cap.geometry, 'dispose'), vi.spyOn(cap.material as THREE.Material, 'dispose')]
    round.dispose()
    for (const call of gone) expect(call).toHaveBeenCalledOnce()
  })
})
