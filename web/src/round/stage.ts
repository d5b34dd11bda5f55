import * as THREE from 'three'
import { RoomEnvironment } from 'three/examples/jsm/environments/RoomEnvironment.js'

import type { PhotoSet, View } from '@/api/client'

/** A canvas with a scene lit evenly, drawn only when something has changed. */
export class Stage {
  readonly scene = new THREE.Scene()
  readonly camera = new THREE.PerspectiveCamera(24, 1, 1, 20000)
  private readonly renderer: THREE.WebGLRenderer
  private pending = false
  private sweep: THREE.Mesh | null = null

  constructor(private readonly canvas: HTMLCanvasElement) {
    this.renderer = new THREE.WebGLRenderer({ canvas, antialias: true, alpha: true })
    this.renderer.toneMapping = THREE.NoToneMapping
    const pmrem = new THREE.PMREMGenerator(this.renderer)
    this.scene.environment = pmrem.fromScene(new RoomEnvironment(), 0.04).texture
    pmrem.dispose()
    this.scene.environmentIntensity = 0.62
    const key = new THREE.DirectionalLight('#ffffff', 0.9)
    key.position.set(-500, 500, 600)
    this.scene.add(key)
  }

  resize(width: number, height: number): void {
    this.renderer.setPixelRatio(Math.min(devicePixelRatio, 2))
    this.renderer.setSize(width, height, false)
    this.camera.aspect = width / Math.max(height, 1)
    this.camera.updateProjectionMatrix()
    this.redraw()
  }

  /** Stand where the shot's camera stands. The set is z-up, three.js y-up. */
  standAt(view: View): void {
    const [x, y, z] = view.position
    this.camera.position.set(x, z, -y)
    this.camera.fov = view.vertical_angle
    this.camera.lookAt(view.target[0], view.target[2], -view.target[1])
    this.camera.updateProjectionMatrix()
    this.redraw()
  }

  /** A floor and backdrop in the set's colour. */
  layOut(set: PhotoSet): void {
    if (this.sweep) {
      this.scene.remove(this.sweep)
      this.sweep.geometry.dispose()
    }
    const { width, front, back, height, curve_radius: radius } = set.sweep
    const profile: [number, number][] = [[front, 0]]
    for (let i = 0; i <= 12; i++) {
      const a = (i / 12) * (Math.PI / 2)
      profile.push([-back + radius - radius * Math.sin(a), radius - radius * Math.cos(a)])
    }
    profile.push([-back, height])
    const positions: number[] = []
    const index: number[] = []
    profile.forEach(([z, y], i) => {
      positions.push(-width / 2, y - 0.1, z, width / 2, y - 0.1, z)
      if (i) index.push(2 * i - 2, 2 * i - 1, 2 * i, 2 * i - 1, 2 * i + 1, 2 * i)
    })
    const geometry = new THREE.BufferGeometry()
    geometry.setAttribute('position', new THREE.Float32BufferAttribute(positions, 3))
    geometry.setIndex(index)
    geometry.computeVertexNormals()
    const material = new THREE.MeshStandardMaterial({ color: set.background, roughness: 1, side: THREE.DoubleSide })
    this.sweep = new THREE.Mesh(geometry, material)
    this.scene.add(this.sweep)
    this.redraw()
  }

  redraw(): void {
    if (this.pending) return
    this.pending = true
    requestAnimationFrame(() => {
      this.pending = false
      this.renderer.render(this.scene, this.camera)
    })
  }

  dispose(): void {
    this.pending = true
    this.scene.environment?.dispose()
    this.renderer.dispose()
    this.canvas.remove()
  }
}
