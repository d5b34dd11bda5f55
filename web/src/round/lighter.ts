import * as THREE from 'three'

/** Of all that a view draws: with more, things are drawn with larger triangles. */
export const MOST_TRIANGLES = 120_000
/** Mm within which corners become one, finest first. */
const CELLS = [0, 2, 3, 5, 8, 12, 20, 32]
/** Cells a thing is divided into, each way. */
const MOST_CELLS = 1024

/** Which corner stands for each, when all within a cube of so many mm become the first of them. */
function standIns(places: THREE.BufferAttribute, cell: number): Uint32Array {
  const box = new THREE.Box3().setFromBufferAttribute(places)
  const size = box.getSize(new THREE.Vector3())
  const step = Math.max(cell, Math.max(size.x, size.y, size.z) / (MOST_CELLS - 1))
  const first = new Map<number, number>()
  const found = new Uint32Array(places.count)
  for (let i = 0; i < places.count; i++) {
    const [x, y, z] = [places.getX(i) - box.min.x, places.getY(i) - box.min.y, places.getZ(i) - box.min.z]
    const key = Math.floor(x / step) + MOST_CELLS * (Math.floor(y / step) + MOST_CELLS * Math.floor(z / step))
    const there = first.get(key)
    if (there === undefined) first.set(key, i)
    found[i] = there ?? i
  }
  return found
}

/** A geometry of fewer triangles: corners within a cube of so many mm are one, what has no area left is left out. */
export function lighter(geometry: THREE.BufferGeometry, cell: number): THREE.BufferGeometry {
  const places = geometry.getAttribute('position') as THREE.BufferAttribute
  const index = geometry.getIndex()!
  const standIn = standIns(places, cell)
  const numbers = new Map<number, number>()
  const number = (corner: number) => numbers.get(corner) ?? (numbers.set(corner, numbers.size), numbers.size - 1)
  const faces: number[] = []
  for (let i = 0; i < index.count; i += 3) {
    const [a, b, c] = [standIn[index.getX(i)]!, standIn[index.getX(i + 1)]!, standIn[index.getX(i + 2)]!]
    if (a !== b && b !== c && c !== a) faces.push(number(a), number(b), number(c))
  }
  const light = new THREE.BufferGeometry()
  for (const [name, all] of Object.entries(geometry.attributes) as [string, THREE.BufferAttribute][]) {
    const own = new (all.array.constructor as Float32ArrayConstructor)(numbers.size * all.itemSize)
    for (const [corner, at] of numbers)
      for (let k = 0; k < all.itemSize; k++) own[at * all.itemSize + k] = all.array[corner * all.itemSize + k]!
    light.setAttribute(name, new THREE.BufferAttribute(own, all.itemSize, all.normalized))
  }
  light.setIndex(faces)
  return light
}

/** How large triangles have to be, so that a view draws no more of them than it can: mm, 0 for as they are. */
export function cellFor(triangles: (cell: number) => number): number {
  return CELLS.find((cell) => triangles(cell) <= MOST_TRIANGLES) ?? CELLS.at(-1)!
}
