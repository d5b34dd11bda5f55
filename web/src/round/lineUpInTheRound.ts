import * as THREE from 'three'

import type { DrawnShape, Plan } from '@/api/client'
import { PackInTheRound } from './packInTheRound'

type Stands = Plan['stands'][number]

/** Things that stay on the graphics card although they do not stand there just now. */
const PACKS_KEPT = 24

/** What stands on a set as three.js draws it: each thing is drawn once, however often it stands there. */
export class LineUpInTheRound {
  readonly group = new THREE.Group()
  private readonly packs = new Map<string, PackInTheRound>()
  private copies: THREE.Group[] = []

  /** Draw what stands, from the shapes that have come and the prints of their panels. */
  show(stands: Stands[], shapes: Record<string, DrawnShape>, pictures: Record<string, THREE.Texture[]>): void {
    for (const [key, shape] of Object.entries(shapes)) {
      if (!this.packs.has(key)) this.packs.set(key, new PackInTheRound())
      this.packs.get(key)!.show(shape, pictures[key] ?? [])
    }
    for (const [key, pack] of this.packs) if (this.packs.size > PACKS_KEPT && !(key in shapes)) this.forget(key, pack)
    this.group.remove(...this.copies)
    this.copies = []
    for (const one of stands) this.stand(one)
  }

  /** Id of what a ray from the camera meets first. */
  hit(ray: THREE.Raycaster): string | null {
    for (const found of ray.intersectObject(this.group, true)) {
      let at: THREE.Object3D | null = found.object
      while (at && at.parent !== this.group) at = at.parent
      if (at) return at.name
    }
    return null
  }

  dispose(): void {
    for (const [key, pack] of this.packs) this.forget(key, pack)
  }

  private stand(one: Stands): void {
    const pack = this.packs.get(one.key)
    if (!pack) return
    const copy = pack.group.clone(true)
    copy.name = one.id
    place(copy, one)
    this.copies.push(copy)
    this.group.add(copy)
  }

  private forget(key: string, pack: PackInTheRound): void {
    pack.dispose()
    this.packs.delete(key)
  }
}

/** Put it where it stands. The set is z-up, three.js y-up. */
function place(copy: THREE.Group, one: Stands): void {
  const pose = new THREE.Matrix4().set(...(one.pose as Parameters<THREE.Matrix4['set']>))
  const up = new THREE.Matrix4().makeRotationX(-Math.PI / 2)
  const matrix = up.clone().multiply(pose).multiply(up.clone().invert())
  copy.matrixAutoUpdate = false
  copy.matrix.copy(matrix)
}
