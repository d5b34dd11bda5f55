import * as THREE from 'three'

import type { DrawnShape } from '@/api/client'
import type { GrainPlace } from '@/composables/grain'
import { lighter } from './lighter'
import { facesOn, placeIn } from './onPrints'
import { materialOf, seenThrough } from './packMaterials'

type Surface = DrawnShape['surfaces'][number]

function numbers(text: string): ArrayBuffer {
  const raw = atob(text)
  const bytes = new Uint8Array(raw.length)
  for (let i = 0; i < raw.length; i++) bytes[i] = raw.charCodeAt(i)
  return bytes.buffer
}

/** The core's triangles as they are; z is up. */
export function geometryOf(mesh: Surface['mesh']): THREE.BufferGeometry {
  const geometry = new THREE.BufferGeometry()
  geometry.setAttribute('position', new THREE.BufferAttribute(new Float32Array(numbers(mesh.positions)), 3))
  geometry.setAttribute('normal', new THREE.BufferAttribute(new Int8Array(numbers(mesh.normals)), 3, true))
  if (mesh.uvs) geometry.setAttribute('uv', new THREE.BufferAttribute(new Float32Array(numbers(mesh.uvs)), 2))
  const faces = numbers(mesh.faces)
  geometry.setIndex(new THREE.BufferAttribute(mesh.wide ? new Uint32Array(faces) : new Uint16Array(faces), 1))
  return geometry
}

/** Of glass that contents are seen through. */
const WALLS_MM = 5
const ORDER: Record<string, number> = { contents: 1, body: 2, closure: 0, labels: 3 }

/** Labels over labels lie within so many mm of each other. */
const LAID_OVER_MM = 1.5

/** The panel whose print a surface carries: panels of a carton that have a stock of their own carry their blank's. */
export function printOf(shape: DrawnShape, panel: number | null | undefined): number | null {
  if (typeof panel !== 'number') return null
  if (shape.kind !== 'carton' || panel < shape.blanks.length + shape.sheets.length) return panel
  const twin = shape.blanks.findIndex((blank) => blank.name === shape.panels[panel]?.name)
  return twin < 0 ? panel : twin
}

/** A place on a pack. */
export interface Met {
  part: string
  /** The panel whose print lies there, if one does. */
  panel: number | null
  at: [number, number, number]
  on: [number, number] | null
}

/** A place on a part's print that is lit up: its outline, 0 to 1. */
export interface Lit {
  part: string
  outline: readonly (readonly [number, number])[]
}

/** One surface as it is drawn, and everything it was made from. */
interface Drawn {
  mesh: THREE.Mesh
  from: Surface['mesh']
  paint: string
}

/**
 * The pack as three.js draws it while the hand moves: the core's own surfaces.
 *
 * Surfaces that did not change are kept, and so are materials: a material that goes away takes its
 * compiled shaders with it, and compiling them anew takes longer than everything else together.
 */
export class PackInTheRound {
  readonly group = new THREE.Group()
  private readonly upright = new THREE.Group()
  private drawn = new Map<string, Drawn>()
  private readonly paints = new Map<string, THREE.Material>()
  private worn = new Set<string>()
  /** Geometries of fewer triangles, by those they were made from and the mm within which corners are one. */
  private readonly lighterOnes = new Map<THREE.BufferGeometry, Map<number, THREE.BufferGeometry>>()
  private glow: THREE.Mesh | null = null
  /** What the wall does to what is seen through it. */
  private wall = new THREE.Color('#ffffff')

  constructor() {
    this.upright.rotation.x = -Math.PI / 2
    this.group.add(this.upright)
  }

  /** Draw a pack as it was shaped; `pictures` are the prints of its panels. */
  show(shape: DrawnShape, pictures: THREE.Texture[]): void {
    this.forget(this.worn)
    const before = this.drawn
    this.drawn = new Map()
    const wall = shape.surfaces.find((surface) => surface.group === 'body')?.material
    const drink = shape.surfaces.find((surface) => surface.group === 'contents')
    this.wall = wall?.kind === 'clear' ? seenThrough(wall.colour, wall.depth, WALLS_MM) : new THREE.Color('#ffffff')
    const dull = wall !== undefined && wall.kind !== 'clear'
    for (const surface of shape.surfaces) {
      if (dull && surface.group === 'contents') continue
      const picture = typeof surface.panel === 'number' ? (pictures[surface.panel] ?? null) : null
      const mesh = this.draw(surface.name, surface, shape, picture, before)
      mesh.name = typeof surface.panel === 'number' ? `panel-${surface.panel}` : surface.part
      mesh.renderOrder =
        surface.group === 'closure' && surface.material.kind === 'clear' ? 1.5 : (ORDER[surface.group] ?? 0)
      mesh.userData.part = surface.part
      mesh.userData.panel = printOf(shape, surface.panel)
      if (surface.group === 'body' && surface.before && drink && !dull) {
        const seen = { ...surface, group: 'contents', material: drink.material, colour: drink.colour }
        this.draw('drink', seen, shape, null, before).renderOrder = 1
      }
    }
    for (const gone of before.values()) this.takeAway(gone)
    const used = new Set([...this.drawn.values()].map((d) => d.paint))
    this.worn = new Set([...this.paints.keys()].filter((paint) => !used.has(paint)))
  }

  /**
   * What a ray meets first: the part, the place in mm to the right, back and up, and that on its print, 0 to 1.
   * A print that is preferred is met through what is laid over it.
   */
  met(ray: THREE.Raycaster, preferred: number | null = null): Met | null {
    const hits = ray.intersectObjects(this.upright.children).filter((one) => one.object.userData.part)
    const [first] = hits
    if (!first) return null
    const near = hits.filter((one) => one.distance < first.distance + LAID_OVER_MM)
    const hit = near.find((one) => preferred !== null && one.object.userData.panel === preferred) ?? first
    const { x, y, z } = this.upright.worldToLocal(hit.point.clone())
    const { part, panel } = hit.object.userData as { part: string; panel: number | null }
    return { part, panel, at: [x, y, z], on: hit.uv ? [hit.uv.x, hit.uv.y] : null }
  }

  /** Where a place of a panel's print, 0 to 1, is on the pack, and which way it faces there; for the eye. */
  placeOn(panel: number, on: readonly [number, number]): { at: THREE.Vector3; facing: THREE.Vector3 } | null {
    const found = this.printAt(panel, on)
    if (!found) return null
    this.toWorld(found.at)
    found.facing.transformDirection(this.upright.matrixWorld)
    return found
  }

  private printAt(panel: number, on: readonly [number, number]) {
    for (const { mesh, from } of this.drawn.values()) {
      const found = mesh.userData.panel === panel && from.uvs ? placeIn(mesh.geometry, on) : null
      if (found) return found
    }
    return null
  }

  /** A place in mm to the right, back and up, changed to where it is for the eye. */
  toWorld(place: THREE.Vector3): THREE.Vector3 {
    this.group.updateMatrixWorld()
    return this.upright.localToWorld(place)
  }

  /**
   * Where a part is seen, in mm, which way it faces there, and the place of its axis: a place of a panel's print
   * that faces the eye, or else what lies before its middle.
   */
  spotOf({ part, panel, on }: GrainPlace, camera: THREE.Camera) {
    const own = [...this.drawn.values()].map((one) => one.mesh).filter((mesh) => mesh.userData.part === part)
    if (!own.length) return null
    const box = new THREE.Box3()
    for (const mesh of own) {
      mesh.geometry.computeBoundingBox()
      box.union(mesh.geometry.boundingBox!)
    }
    const middle = box.getCenter(new THREE.Vector3())
    const around = box.min.x < 0 && box.min.y < 0 && box.max.x > 0 && box.max.y > 0
    const from = around ? new THREE.Vector3() : middle
    const eye = camera.getWorldPosition(new THREE.Vector3())
    const printed = panel !== undefined && on ? this.printAt(panel, on) : null
    if (printed) {
      const towards = this.upright.worldToLocal(eye.clone()).sub(printed.at)
      if (printed.facing.dot(towards) > 0) return { ...printed, from }
    }
    const ray = new THREE.Raycaster(eye, this.toWorld(middle.clone()).sub(eye).normalize())
    const [hit] = ray.intersectObjects(own)
    if (!hit?.face) return null
    return { at: this.upright.worldToLocal(hit.point.clone()), facing: hit.face.normal.clone(), from }
  }

  /** Light up what carries a place of a part's print; nothing when there is none. */
  light(lit: Lit | null): void {
    if (this.glow) {
      this.upright.remove(this.glow)
      this.glow.geometry.dispose()
      ;(this.glow.material as THREE.Material).dispose()
      this.glow = null
    }
    if (!lit) return
    const own = [...this.drawn.values()].filter((one) => one.mesh.userData.part === lit.part && one.from.uvs)
    const found = own.map(({ mesh }) => ({ mesh, index: facesOn(mesh.geometry, lit.outline) }))
    const { mesh, index } = found.find((one) => one.index.length) ?? {}
    if (!mesh || !index) return
    const geometry = new THREE.BufferGeometry()
    geometry.setAttribute('position', mesh.geometry.getAttribute('position').clone())
    geometry.setIndex(index)
    const material = new THREE.MeshBasicMaterial({
      color: '#b3324c',
      transparent: true,
      opacity: 0.35,
      side: THREE.DoubleSide,
      depthWrite: false,
      polygonOffset: true,
      polygonOffsetFactor: -4,
      polygonOffsetUnits: -4,
    })
    this.glow = new THREE.Mesh(geometry, material)
    this.glow.renderOrder = 9
    this.upright.add(this.glow)
  }

  /** How many triangles it has, with corners within so many mm as one. */
  triangles(cell: number): number {
    const all = [...this.drawn.values()].map(({ mesh }) => this.geometryAt(mesh.geometry, cell))
    return all.reduce((sum, geometry) => sum + geometry.getIndex()!.count / 3, 0)
  }

  /** Its surfaces to be drawn in so many places, upright, with corners within so many mm as one. */
  forMany(count: number, cell: number): THREE.InstancedMesh[] {
    return [...this.drawn.values()].map(({ mesh }) => {
      const surface = new THREE.InstancedMesh(this.geometryAt(mesh.geometry, cell), mesh.material, count)
      surface.renderOrder = mesh.renderOrder
      return surface
    })
  }

  private geometryAt(geometry: THREE.BufferGeometry, cell: number): THREE.BufferGeometry {
    if (!cell) return geometry
    if (!this.lighterOnes.has(geometry)) this.lighterOnes.set(geometry, new Map())
    const known = this.lighterOnes.get(geometry)!
    if (!known.has(cell)) known.set(cell, lighter(geometry, cell))
    return known.get(cell)!
  }

  /** Free what it holds on the graphics card, but not the textures it borrowed. */
  dispose(): void {
    this.light(null)
    for (const drawn of this.drawn.values()) this.takeAway(drawn)
    this.drawn.clear()
    this.forget(new Set(this.paints.keys()))
  }

  /** The surface of that name: the one that stands there if it is the same still. */
  private draw(
    name: string,
    surface: Surface,
    shape: DrawnShape,
    picture: THREE.Texture | null,
    before: Map<string, Drawn>,
  ): THREE.Mesh {
    const through = shape.kind === 'vessel' ? shape.facts.depth : shape.facts.size[1]
    const inside = surface.group === 'contents' && [through, this.wall.getHex()]
    const paint = JSON.stringify([picture?.uuid ?? surface.material, inside])
    if (!this.paints.has(paint)) this.paints.set(paint, materialOf(surface, through, picture, this.wall))
    const material = this.paints.get(paint)!
    const old = before.get(name)
    if (old && sameMesh(old.from, surface.mesh)) {
      before.delete(name)
      old.mesh.material = material
      this.drawn.set(name, { ...old, paint })
      return old.mesh
    }
    const mesh = new THREE.Mesh(geometryOf(surface.mesh), material)
    this.upright.add(mesh)
    this.drawn.set(name, { mesh, from: surface.mesh, paint })
    return mesh
  }

  private takeAway(drawn: Drawn): void {
    for (const light of this.lighterOnes.get(drawn.mesh.geometry)?.values() ?? []) light.dispose()
    this.lighterOnes.delete(drawn.mesh.geometry)
    this.upright.remove(drawn.mesh)
    drawn.mesh.geometry.dispose()
  }

  /** Let go of materials nothing wore in the last drawing; by then what took their place is compiled. */
  private forget(paints: Set<string>): void {
    for (const paint of paints) {
      this.paints.get(paint)?.dispose()
      this.paints.delete(paint)
    }
  }
}

function sameMesh(one: Surface['mesh'], other: Surface['mesh']): boolean {
  return (
    one.positions === other.positions &&
    one.faces === other.faces &&
    one.uvs === other.uvs &&
    one.normals === other.normals
  )
}
