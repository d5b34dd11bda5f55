import * as THREE from 'three'

import type { Pack, Shape, Sheet } from '@/api/client'

const AROUND = 96

type Outline = Shape['outer']

/** A surface of revolution from the core's outline; three.js is y-up, our front faces +z there. */
function lathe(outline: Outline, start = 0, turn = 2 * Math.PI): THREE.LatheGeometry {
  const points = outline.map(([r, z]) => new THREE.Vector2(Math.max(r, 0), z))
  const segments = Math.max(Math.round((AROUND * turn) / (2 * Math.PI)), 8)
  return new THREE.LatheGeometry(points, segments, start, turn)
}

/** Stretch v over the length of the outline, as the print lies on it. */
function spreadAlong(geometry: THREE.LatheGeometry, outline: Outline): void {
  const lengths = [0]
  for (let i = 1; i < outline.length; i++) {
    const [a, b] = [outline[i - 1]!, outline[i]!]
    lengths.push(lengths[i - 1]! + Math.hypot(b[0] - a[0], b[1] - a[1]))
  }
  const uv = geometry.getAttribute('uv')
  const total = lengths.at(-1) || 1
  for (let i = 0; i < uv.count; i++) uv.setY(i, lengths[i % outline.length]! / total)
}

/** Colour of a clear material seen through `through` mm of it (its colour holds at `depth` mm). */
function seenThrough(colour: string, depth: number, through: number): THREE.Color {
  const base = new THREE.Color(colour)
  const share = through / depth
  return new THREE.Color(base.r ** share, base.g ** share, base.b ** share)
}

function label(sheet: Sheet, picture: THREE.Texture | null, colour: string): THREE.Mesh {
  const geometry = lathe(sheet.face, sheet.start, sheet.turn)
  spreadAlong(geometry, sheet.face)
  const material = new THREE.MeshStandardMaterial({
    map: picture,
    color: picture ? '#ffffff' : colour,
    roughness: 0.7,
    side: THREE.DoubleSide,
  })
  return new THREE.Mesh(geometry, material)
}

/** The pack as three.js draws it while the hand moves. `pictures` are the prints of its panels. */
export function packMesh(pack: Pack, shape: Shape, pictures: (THREE.Texture | null)[]): THREE.Group {
  const group = new THREE.Group()
  const glass = new THREE.MeshPhysicalMaterial({
    color: seenThrough(pack.body.material.colour, pack.body.material.depth, pack.body.wall_thickness),
    transparent: true,
    opacity: 0.13,
    roughness: 0.04,
    side: THREE.DoubleSide,
    depthWrite: false,
    envMapIntensity: 1.3,
  })
  if (shape.liquid_wall && shape.liquid_top && pack.contents) {
    const drink = pack.contents.material
    const liquid = new THREE.MeshPhysicalMaterial({
      color: seenThrough(drink.colour, drink.depth, shape.facts.diameter * 0.6),
      transparent: true,
      opacity: 0.86,
      roughness: 0.08,
      side: THREE.DoubleSide,
    })
    const outline = [...shape.liquid_top].reverse().concat(shape.liquid_wall)
    const body = new THREE.Mesh(lathe(outline), liquid)
    body.renderOrder = 1
    group.add(body)
  }
  const wall = new THREE.Mesh(lathe(shape.glass), glass)
  wall.renderOrder = 2
  group.add(wall)
  if (shape.cap && pack.closure) {
    const { colour, gloss } = pack.closure.material
    const material = new THREE.MeshPhysicalMaterial({ color: colour, roughness: 0.75 - 0.65 * gloss, side: THREE.DoubleSide })
    group.add(new THREE.Mesh(lathe(shape.cap), material))
  }
  shape.sheets.forEach((sheet, index) => {
    const mesh = label(sheet, pictures[index] ?? null, pack.panels[index]?.stock.colour ?? '#ffffff')
    mesh.name = `panel-${index}`
    mesh.renderOrder = 3
    group.add(mesh)
  })
  return group
}

/** Free what a group holds on the graphics card, but not the textures it borrowed. */
export function dispose(group: THREE.Object3D): void {
  group.traverse((object) => {
    if (object instanceof THREE.Mesh) {
      ;(object.geometry as THREE.BufferGeometry).dispose()
      ;(object.material as THREE.Material).dispose()
    }
  })
}
