import * as THREE from 'three'

import type { DrawnShape, Material } from '@/api/client'

type Surface = DrawnShape['surfaces'][number]

/** Colour of a clear material seen through `through` mm of it (its colour holds at `depth` mm). */
export function seenThrough(colour: string, depth: number, through: number): THREE.Color {
  const base = new THREE.Color(colour)
  const share = through / depth
  return new THREE.Color(base.r ** share, base.g ** share, base.b ** share)
}

/** For each corner, which way its surface faces and where the eye is. */
const FACING = `
  varying vec3 facing;
  varying vec3 eye;
  void main() {
    #ifdef USE_INSTANCING
      vec4 place = modelViewMatrix * (instanceMatrix * vec4(position, 1.0));
      facing = normalMatrix * (mat3(instanceMatrix) * normal);
    #else
      vec4 place = modelViewMatrix * vec4(position, 1.0);
      facing = normalMatrix * normal;
    #endif
    eye = -place.xyz;
    gl_Position = projectionMatrix * place;
  }`

/** Clear where it is seen face on, denser towards its edges, with one soft highlight. */
function glassMaterial(colour: THREE.Color): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    uniforms: { colour: { value: colour } },
    vertexShader: FACING,
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

/** What a polished thing mirrors, by the direction it faces: a key from the left, an edge on the right. */
function studioSeenIn(tint: THREE.Color, gloss: number): THREE.DataTexture {
  const size = 96
  const pixels = new Uint8Array(size * size * 4)
  const soft = (at: number, middle: number, half: number) => {
    const edge = 0.06 + 0.3 * (1 - gloss)
    return Math.min(Math.max((half + edge - Math.abs(at - middle)) / (2 * edge), 0), 1)
  }
  for (let row = 0; row < size; row++)
    for (let column = 0; column < size; column++) {
      const [x, y] = [((column + 0.5) / size) * 2 - 1, ((row + 0.5) / size) * 2 - 1]
      const key = 0.75 * soft(x, -0.52, 0.17) * soft(y, 0.12, 0.6)
      const strip = 0.85 * soft(x, 0.78, 0.05) * soft(y, 0, 0.75)
      const above = 0.3 * soft(y, 0.85, 0.2)
      const light = 0.22 + 0.1 * y + key + strip + above
      const at = 4 * (row * size + column)
      ;[tint.r, tint.g, tint.b].forEach((value, k) => {
        const shown = Math.min(value * light * 1.25, 1) ** (1 / 2.2)
        pixels[at + k] = Math.round(255 * shown)
      })
      pixels[at + 3] = 255
    }
  const texture = new THREE.DataTexture(pixels, size, size)
  texture.colorSpace = THREE.SRGBColorSpace
  texture.minFilter = texture.magFilter = THREE.LinearFilter
  texture.needsUpdate = true
  return texture
}

/** A metal mirrors the studio; its texture goes when it goes. */
function metalMaterial(colour: string, gloss: number): THREE.Material {
  const matcap = studioSeenIn(new THREE.Color(colour), gloss)
  const material = new THREE.MeshMatcapMaterial({ matcap, side: THREE.DoubleSide })
  material.addEventListener('dispose', () => matcap.dispose())
  return material
}

/** A surface that is not clear, as it is drawn. */
function solidMaterial(material: Exclude<Material, { kind: 'clear' }>, colour: string): THREE.Material {
  const { gloss } = material
  if (material.kind === 'metal') return metalMaterial(colour, gloss)
  const shine = new THREE.Color(0.3 * gloss, 0.3 * gloss, 0.3 * gloss)
  return new THREE.MeshPhongMaterial({
    color: new THREE.Color(colour),
    specular: shine,
    shininess: 8 + 90 * gloss,
    side: THREE.DoubleSide,
  })
}

/** A liquid: coloured by how far one looks through it, and by the glass before it. */
function liquidMaterial(colour: string, depth: number, through: number, wall: THREE.Color): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    uniforms: { colour: { value: new THREE.Color(colour) }, share: { value: through / depth }, wall: { value: wall } },
    vertexShader: FACING,
    fragmentShader: `
      uniform vec3 colour;
      uniform vec3 wall;
      uniform float share;
      varying vec3 facing;
      varying vec3 eye;
      void main() {
        vec3 n = normalize(facing);
        vec3 v = normalize(eye);
        float towards = abs(dot(n, v));
        vec3 seen = pow(colour, vec3(share * (0.35 + 0.65 * towards))) * wall * (0.55 + 0.2 * towards);
        gl_FragColor = vec4(pow(seen, vec3(1.0 / 2.2)), 0.96);
      }`,
    transparent: true,
    side: THREE.DoubleSide,
  })
}

/** A print: matt or glossy ink, or metal that mirrors the studio, by its looks; clear where nothing is. */
function printMaterial(picture: THREE.Texture, looks: THREE.Texture): THREE.Material {
  const studio = studioSeenIn(new THREE.Color('#ffffff'), 0.8)
  const material = new THREE.ShaderMaterial({
    uniforms: { picture: { value: picture }, looks: { value: looks }, studio: { value: studio } },
    vertexShader: FACING.replace('void main() {', 'varying vec2 at;\n  void main() {\n    at = uv;'),
    fragmentShader: `
      uniform sampler2D picture;
      uniform sampler2D looks;
      uniform sampler2D studio;
      varying vec3 facing;
      varying vec3 eye;
      varying vec2 at;
      void main() {
        vec4 ink = texture2D(picture, at);
        vec2 look = texture2D(looks, at).gb;
        vec3 v = normalize(eye);
        vec3 n = normalize(facing) * (gl_FrontFacing ? 1.0 : -1.0);
        vec3 across = normalize(vec3(v.z, 0.0, -v.x));
        vec3 mirrored = texture2D(studio, vec2(dot(across, n), dot(cross(v, across), n)) * 0.495 + 0.5).rgb;
        float light = 0.5 + 0.5 * max(dot(n, normalize(vec3(-0.45, 0.35, 0.8))), 0.0);
        float gloss = 1.0 - look.x;
        vec3 matt = ink.rgb * light + 0.16 * gloss * gloss * mirrored;
        vec3 shown = mix(matt, ink.rgb * mirrored * 1.6, look.y);
        gl_FragColor = vec4(pow(min(shown, vec3(1.0)), vec3(1.0 / 2.2)), ink.a);
      }`,
    transparent: true,
    side: THREE.DoubleSide,
  })
  material.addEventListener('dispose', () => studio.dispose())
  return material
}

/** What one surface is drawn with. */
export function materialOf(
  surface: Surface,
  through: number,
  picture: THREE.Texture | null,
  wall: THREE.Color,
): THREE.Material {
  const looks = picture?.userData.looks as THREE.Texture | undefined
  if (picture && looks) return printMaterial(picture, looks)
  if (picture) return new THREE.MeshLambertMaterial({ map: picture, side: THREE.DoubleSide })
  const material = surface.material
  if (surface.group === 'contents' && material.kind === 'clear')
    return liquidMaterial(material.colour, material.depth, through, wall)
  if (material.kind === 'clear') return glassMaterial(seenThrough(material.colour, material.depth, 2.5))
  return solidMaterial(material, surface.colour)
}
