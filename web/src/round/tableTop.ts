import * as THREE from 'three'

import type { PhotoSet, Plan, View } from '@/api/client'
import { shareAfter, timed } from './pace'

/** After so long without a move all pixels are drawn: by then a proof has mostly come. */
const REST_MS = 2500
/** Where the neutral lamps stand (three.js axes) and how strong they are. */
const LAMPS: [number, number, number, number][] = [
  [-700, 500, 600, 1.1],
  [800, 300, 200, 0.5],
]

/** A canvas with a scene lit evenly, drawn only when something has changed. */
export class TableTop {
  readonly scene = new THREE.Scene()
  readonly camera = new THREE.PerspectiveCamera(24, 1, 1, 20000)
  private readonly renderer: THREE.WebGLRenderer
  private pending = false
  private size = { width: 1, height: 1 }
  /** Of its pixels, that are drawn while it moves. */
  private share = 1
  private nextShare = 1
  private rest: ReturnType<typeof setTimeout> | undefined
  private sweep: THREE.Mesh | null = null
  /** What is seen on the left only, what on the right only, and where one ends, 0..1. */
  private halves: { left: THREE.Object3D; right: THREE.Object3D; at: number } | null = null

  constructor(private readonly canvas: HTMLCanvasElement) {
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: true, alpha: true })
    this.renderer.toneMapping = THREE.NoToneMapping
    this.scene.add(new THREE.HemisphereLight('#ffffff', '#8f8a80', 1.9))
    for (const [x, y, z, strength] of LAMPS) {
      const lamp = new THREE.DirectionalLight('#ffffff', strength)
      lamp.position.set(x, y, z)
      this.scene.add(lamp)
    }
  }

  resize(width: number, height: number): void {
    this.size = { width, height }
    this.takePixels(this.share)
    this.camera.aspect = width / Math.max(height, 1)
    this.camera.updateProjectionMatrix()
    this.redraw()
  }

  private takePixels(share: number): void {
    this.share = this.nextShare = share
    this.renderer.setPixelRatio(Math.min(devicePixelRatio, 2) * share)
    this.renderer.setSize(this.size.width, this.size.height, false)
  }

  /** Stand where the shot's camera stands. The set is z-up, three.js y-up. */
  standAt(view: View): void {
    const [x, y, z] = view.position
    this.camera.position.set(x, z, -y)
    this.camera.fov = view.vertical_angle
    this.camera.lookAt(view.target[0]!, view.target[2]!, -view.target[1]!)
    this.camera.rotateZ((-view.roll * Math.PI) / 180)
    this.camera.setViewOffset(1, 1, view.shift, -view.rise, 1, 1)
    this.camera.updateProjectionMatrix()
    this.redraw()
  }

  /** The ray through a place of the picture, −1..1 to the right and up. */
  ray(at: THREE.Vector2): THREE.Raycaster {
    const ray = new THREE.Raycaster()
    this.camera.updateMatrixWorld()
    ray.setFromCamera(at, this.camera)
    return ray
  }

  /** Where on the floor that is, mm as the set has them; none above the horizon. */
  onFloor(at: THREE.Vector2): { x: number; y: number } | null {
    const found = this.ray(at).ray.intersectPlane(new THREE.Plane(new THREE.Vector3(0, 1, 0), 0), new THREE.Vector3())
    return found && { x: found.x, y: -found.z }
  }

  /** A floor and backdrop in the set's colour. */
  layOut(set: PhotoSet, line: Plan['sweep']): void {
    if (this.sweep) {
      this.scene.remove(this.sweep)
      this.sweep.geometry.dispose()
    }
    const half = set.sweep.width / 2
    const positions: number[] = []
    const index: number[] = []
    line.forEach(([y, z], i) => {
      positions.push(-half, z - 0.1, -y, half, z - 0.1, -y)
      if (i) index.push(2 * i - 2, 2 * i - 1, 2 * i, 2 * i - 1, 2 * i + 1, 2 * i)
    })
    const geometry = new THREE.BufferGeometry()
    geometry.setAttribute('position', new THREE.Float32BufferAttribute(positions, 3))
    geometry.setIndex(index)
    geometry.computeVertexNormals()
    const material = new THREE.MeshLambertMaterial({
      color: set.behind.kind === 'colour' ? set.behind.colour : set.background,
      side: THREE.DoubleSide,
    })
    this.sweep = new THREE.Mesh(geometry, material)
    this.scene.add(this.sweep)
    this.redraw()
  }

  /** Draw with the next frame. */
  redraw(): void {
    if (this.pending) return
    this.pending = true
    requestAnimationFrame(() => this.pending && this.drawInPace())
  }

  /** Draw, with fewer pixels next time if that was slow; with all of them once nothing has moved for a while. */
  private drawInPace(): void {
    if (this.nextShare !== this.share) this.takePixels(this.nextShare)
    this.draw()
    clearTimeout(this.rest)
    timed(this.renderer.getContext() as WebGL2RenderingContext, (took) => {
      if (!this.canvas.isConnected) return
      this.nextShare = shareAfter(this.share, took)
      if (this.share < 1) this.rest = setTimeout(() => (this.takePixels(1), this.draw()), REST_MS)
    })
  }

  /** Draw now. */
  draw(): void {
    this.pending = false
    if (!this.halves) return this.renderer.render(this.scene, this.camera)
    const { left, right, at } = this.halves
    const size = this.renderer.getSize(new THREE.Vector2())
    this.renderer.setScissorTest(true)
    for (const [shown, hidden, from, to] of [
      [left, right, 0, at],
      [right, left, at, 1],
    ] as const) {
      shown.visible = true
      hidden.visible = false
      this.renderer.setScissor(from * size.x, 0, (to - from) * size.x, size.y)
      this.renderer.render(this.scene, this.camera)
    }
    this.renderer.setScissorTest(false)
    left.visible = right.visible = true
  }

  /** See one thing left of `at` and another right of it, or everything everywhere. */
  split(halves: { left: THREE.Object3D; right: THREE.Object3D; at: number } | null): void {
    this.halves = halves
    this.redraw()
  }

  dispose(): void {
    this.pending = false
    clearTimeout(this.rest)
    this.renderer.dispose()
    this.canvas.remove()
  }
}
