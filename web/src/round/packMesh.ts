import * as THREE from 'three'

import type { Material, Pack, Shape, Sheet } from '@/api/client'

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

function label(sheet: Sheet, picture: THREE.Texture | null, colour: string): THREE.Mesh {
  const geometry = lathe(sheet.face, sheet.start, sheet.turn)
  spreadAlong(geometry, sheet.face)
  const material = new THREE.MeshLambertMaterial({
    map: picture,
    color: picture ? '#ffffff' : colour,
    side: THREE.DoubleSide,
  })
  return new THREE.Mesh(geometry, material)
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

function contentsMaterial(material: Extract<Material, { kind: 'clear' | 'cloudy' }>, diameter: number): THREE.Material {
  if (material.kind === 'cloudy') return solidMaterial(material)
  return new THREE.MeshPhongMaterial({
    color: seenThrough(material.colour, material.depth, diameter * 0.6),
    transparent: true,
    opacity: 0.85,
    shininess: 60,
    side: THREE.DoubleSide,
  })
}

/** The pack as three.js draws it while the hand moves. `pictures` are the prints of its panels. */
export function packMesh(pack: Pack, shape: Shape, pictures: (THREE.Texture | null)[]): THREE.Group {
  const group = new THREE.Group()
  if (shape.liquid_wall && shape.liquid_top && pack.contents) {
    const outline = [...shape.liquid_top].reverse().concat(shape.liquid_wall)
    const body = new THREE.Mesh(lathe(outline), contentsMaterial(pack.contents.material, shape.facts.diameter))
    body.renderOrder = 1
    group.add(body)
  }
  const { material } = pack.body
  const wall = new THREE.Mesh(
    lathe(shape.glass),
    material.kind === 'clear' ? glassMaterial(seenThrough(material.colour, material.depth, pack.body.wall_thickness)) : solidMaterial(material),
  )
  wall.renderOrder = 2
  group.add(wall)
  if (shape.cap && pack.closure) group.add(new THREE.Mesh(lathe(shape.cap), solidMaterial(pack.closure.material)))
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
