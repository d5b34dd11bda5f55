import * as THREE from 'three'

import type { Material, Pack, Shape } from '@/api/client'

type Surface = Shape['surfaces'][number]

function numbers(text: string): ArrayBuffer {
  const raw = atob(text)
  const bytes = new Uint8Array(raw.length)
  for (let i = 0; i < raw.length; i++) bytes[i] = raw.charCodeAt(i)
  return bytes.buffer
}

/** The core's triangles as they are; z is up. */
function geometryOf(mesh: Surface['mesh']): THREE.BufferGeometry {
  const geometry = new THREE.BufferGeometry()
  geometry.setAttribute('position', new THREE.BufferAttribute(new Float32Array(numbers(mesh.positions)), 3))
  geometry.setAttribute('normal', new THREE.BufferAttribute(new Int8Array(numbers(mesh.normals)), 3, true))
  if (mesh.uvs) geometry.setAttribute('uv', new THREE.BufferAttribute(new Float32Array(numbers(mesh.uvs)), 2))
  const faces = numbers(mesh.faces)
  geometry.setIndex(new THREE.BufferAttribute(mesh.wide ? new Uint32Array(faces) : new Uint16Array(faces), 1))
  return geometry
}

/** Colour of a clear material seen through `through` mm of it (its colour holds at `depth` mm). */
function seenThrough(colour: string, depth: number, through: number): THREE.Color {
  const base = new THREE.Color(colour)
  const share = through / depth
  return new THREE.Color(base.r ** share, base.g ** share, base.b ** share)
}

/** Clear where it is seen face on, denser towards its edges, with one soft highlight. */
function glassMaterial(colour: THREE.Color): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    uniforms: { colour: { value: colour } },
    vertexShader: `
      varying vec3 facing;
      varying vec3 eye;
      void main() {
        vec4 place = modelViewMatrix * vec4(position, 1.0);
        facing = normalMatrix * normal;
        eye = -place.xyz;
        gl_Position = projectionMatrix * place;
      }`,
    fragmentShader: `
      uniform vec3 colour;
      varying vec3 facing;
      varying vec3 eye;
      void main() {
        vec3 n = normalize(facing);
        vec3 v = normalize(eye);
        float edge = 1.0 - abs(dot(n, v));
        float shine = pow(max(dot(reflect(-v, n), normalize(vec3(-0.75, 0.35, 0.55))), 0.0), 40.0);
        vec3 shown = mix(colour * 0.9, colour * 0.45, pow(edge, 3.0)) + shine;
        gl_FragColor = vec4(shown, 0.07 + 0.5 * pow(edge, 2.2) + 0.5 * shine);
      }`,
    transparent: true,
    side: THREE.DoubleSide,
    depthWrite: false,
  })
}

/** Straight-on colours of metals, near enough for a drawing. */
const METALS = { aluminium: '#d9dbdc', silver: '#eeeae4', gold: '#e2b568', copper: '#d99a76', chrome: '#b4b6ba' } as const

/** A surface that is not clear, as it is drawn. */
function solidMaterial(material: Exclude<Material, { kind: 'clear' }>): THREE.MeshPhongMaterial {
  const { gloss } = material
  const colour = new THREE.Color(material.kind === 'metal' ? METALS[material.metal] : material.colour)
  if (material.kind === 'metal') colour.multiply(new THREE.Color(material.tint))
  const shine = new THREE.Color(0.3 * gloss, 0.3 * gloss, 0.3 * gloss)
  return new THREE.MeshPhongMaterial({ color: colour, specular: shine, shininess: 8 + 90 * gloss, side: THREE.DoubleSide })
}

function contentsMaterial(material: Extract<Material, { kind: 'clear' | 'cloudy' | 'opaque' }>, diameter: number): THREE.Material {
  if (material.kind !== 'clear') return solidMaterial(material)
  return new THREE.MeshPhongMaterial({
    color: seenThrough(material.colour, material.depth, diameter * 0.6),
    transparent: true,
    opacity: 0.85,
    shininess: 60,
    side: THREE.DoubleSide,
  })
}

/** What one surface is drawn with; nothing for those that another one hides in a drawing. */
function materialOf(surface: Surface, shape: Shape, picture: THREE.Texture | null): THREE.Material {
  const material = surface.material as Material
  if (surface.panel !== null && surface.panel !== undefined && picture) {
    return new THREE.MeshLambertMaterial({ map: picture, side: THREE.DoubleSide })
  }
  if (surface.group === 'contents') {
    return contentsMaterial(material as Extract<Material, { kind: 'clear' | 'cloudy' | 'opaque' }>, shape.facts.depth)
  }
  if (material.kind === 'clear') return glassMaterial(seenThrough(material.colour, material.depth, 2.5))
  return solidMaterial(material)
}

const ORDER: Record<string, number> = { contents: 1, body: 2, closure: 0, labels: 3 }

/**
 * The pack as three.js draws it while the hand moves: the core's own surfaces.
 * `pictures` are the prints of its panels.
 */
export function packMesh(pack: Pack, shape: Shape, pictures: (THREE.Texture | null)[]): THREE.Group {
  const group = new THREE.Group()
  const upright = new THREE.Group()
  upright.rotation.x = -Math.PI / 2
  group.add(upright)
  const dull = pack.body.material.kind !== 'clear' && !pack.parts?.body?.hidden
  for (const surface of shape.surfaces) {
    if (dull && surface.group === 'contents') continue
    const geometry = geometryOf(surface.mesh)
    const picture = surface.panel === null || surface.panel === undefined ? null : (pictures[surface.panel] ?? null)
    const mesh = new THREE.Mesh(geometry, materialOf(surface, shape, picture))
    mesh.name = surface.panel === null || surface.panel === undefined ? surface.part : `panel-${surface.panel}`
    mesh.renderOrder = ORDER[surface.group] ?? 0
    if (surface.group === 'closure' && surface.material.kind === 'clear') mesh.renderOrder = 1.5
    upright.add(mesh)
    if (surface.name === 'wetted-body' && pack.contents && !dull) {
      const drink = new THREE.Mesh(geometry, contentsMaterial(pack.contents.material as Extract<Material, { kind: 'clear' }>, shape.facts.depth))
      drink.renderOrder = 1
      upright.add(drink)
    }
  }
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
