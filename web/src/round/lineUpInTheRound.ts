import * as THREE from 'three'

import type { DrawnShape, Plan } from '@/api/client'
import { cellFor } from './lighter'
import { PackInTheRound } from './packInTheRound'

type Stands = Plan['stands'][number]

/** Things that stay on the graphics card although they do not stand there just now. */
const PACKS_KEPT = 24
/** The set is z-up, three.js y-up. */
const UPRIGHT = new THREE.Matrix4().makeRotationX(-Math.PI / 2)

/** One of what stands there: where it is, as three.js has it. */
interface Place {
  id: string
  matrix: THREE.Matrix4
}

/** All of a kind that stand there, and the surfaces they are drawn with, each at once for all of them. */
interface Alike {
  places: Place[]
  surfaces: THREE.InstancedMesh[]
}

/**
 * What stands on a set as three.js draws it: each surface of a thing is drawn once for all places where it stands, as
 * graphics take about as long for each as for what it shows.
 */
export class LineUpInTheRound {
  readonly group = new THREE.Group()
  private readonly packs = new Map<string, PackInTheRound>()
  private alike: Alike[] = []
  private shown: { stands?: Stands[]; shapes?: object; pictures?: object } = {}
  private eye = new THREE.Vector3()

  /** Draw what stands, from the shapes that have come and the prints of their panels. */
  show(stands: Stands[], shapes: Record<string, DrawnShape>, pictures: Record<string, THREE.Texture[]>): void {
    if (stands === this.shown.stands && shapes === this.shown.shapes && pictures === this.shown.pictures) return
    this.shown = { stands, shapes, pictures }
    for (const [key, shape] of Object.entries(shapes)) {
      if (!this.packs.has(key)) this.packs.set(key, new PackInTheRound())
      this.packs.get(key)!.show(shape, pictures[key] ?? [])
    }
    for (const [key, pack] of this.packs) if (this.packs.size > PACKS_KEPT && !(key in shapes)) this.forget(key, pack)
    this.clear()
    const places = new Map<string, Place[]>()
    for (const { key, id, pose } of stands) {
      const matrix = UPRIGHT.clone().multiply(new THREE.Matrix4().set(...(pose as MatrixNumbers)))
      places.set(key, [...(places.get(key) ?? []), { id, matrix }])
    }
    const there = [...places].flatMap(([key, own]) => {
      const pack = this.packs.get(key)
      return pack ? [{ pack, own }] : []
    })
    const cell = cellFor((size) => there.reduce((sum, { pack, own }) => sum + own.length * pack.triangles(size), 0))
    this.alike = there.map(({ pack, own }) => ({ places: own, surfaces: pack.forMany(own.length, cell) }))
    for (const { surfaces } of this.alike) this.group.add(...surfaces)
    this.seenFrom(this.eye)
  }

  /** What is clear is drawn from the back to the front, as seen from there. */
  seenFrom(eye: THREE.Vector3): void {
    this.eye = eye.clone()
    for (const { places, surfaces } of this.alike) {
      const away = ({ matrix }: Place) => eye.distanceToSquared(new THREE.Vector3().setFromMatrixPosition(matrix))
      places.sort((a, b) => away(b) - away(a))
      for (const surface of surfaces) {
        places.forEach(({ matrix }, index) => surface.setMatrixAt(index, matrix))
        surface.instanceMatrix.needsUpdate = true
        surface.boundingSphere = null
      }
    }
  }

  /** Id of what a ray from the camera meets first. */
  hit(ray: THREE.Raycaster): string | null {
    let [nearest, id] = [Infinity, null as string | null]
    for (const { places, surfaces } of this.alike)
      for (const { distance, instanceId } of ray.intersectObjects(surfaces))
        if (distance < nearest) [nearest, id] = [distance, places[instanceId!]!.id]
    return id
  }

  dispose(): void {
    this.clear()
    for (const [key, pack] of this.packs) this.forget(key, pack)
  }

  private clear(): void {
    for (const { surfaces } of this.alike) {
      this.group.remove(...surfaces)
      surfaces.forEach((surface) => surface.dispose())
    }
    this.alike = []
  }

  private forget(key: string, pack: PackInTheRound): void {
    pack.dispose()
    this.packs.delete(key)
  }
}

type MatrixNumbers = Parameters<THREE.Matrix4['set']>
