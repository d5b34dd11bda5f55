import type { Arrangement, HungLight, Light, Plan } from '@/api/client'

export type Place = [number, number, number]
export type NewLight = Extract<Arrangement, { kind: 'hang-light' }>['what']

/** What can be hung, in our words. */
export const NEW_LIGHTS: { what: NewLight; words: string }[] = [
  { what: 'softbox', words: 'Softbox' },
  { what: 'strip', words: 'Strip' },
  { what: 'spot', words: 'Spot' },
  { what: 'ball', words: 'Ball' },
  { what: 'sun', words: 'Sun' },
  { what: 'window', words: 'Window' },
  { what: 'table', words: 'Light table' },
  { what: 'card', words: 'White card' },
  { what: 'flag', words: 'Black flag' },
]
const RAD = Math.PI / 180
const NEAREST = 20
/** How far away a sun is drawn, in reaches of what stands. */
const SUN_AT = 2.4

/** What a light gives, and of what; none for cards. */
export function strengthOf(light: Light): { value: number; unit: string } | null {
  if (light.kind === 'card') return null
  return light.kind === 'sun' ? { value: light.irradiance, unit: 'W/m²' } : { value: light.power_w, unit: 'W' }
}
export function setStrength(light: Light, value: number): void {
  if (light.kind === 'sun') light.irradiance = value
  else if (light.kind !== 'card') light.power_w = value
}

/** Width and height in mm of what lights shine from. */
export function sides(light: Light): [number, number] {
  if (light.kind === 'sun') return [1, 1]
  return light.kind === 'spot' || light.kind === 'ball' ? [light.diameter, light.diameter] : [light.width, light.height]
}

/** Where a light is from what it is aimed at. */
export function bearing(centre: Place, target: Place): { azimuth: number; elevation: number; distance: number } {
  const [x, y, z] = [0, 1, 2].map((k) => centre[k]! - target[k]!) as Place
  const distance = Math.max(Math.hypot(x, y, z), NEAREST)
  return {
    azimuth: round(Math.atan2(x, -y) / RAD, 2),
    elevation: round(Math.asin(Math.max(-1, Math.min(1, z / distance))) / RAD, 2),
    distance: round(distance, 1),
  }
}

/** Hang a light somewhere else, aimed at what it was aimed at. */
export function hangAt(light: Light, centre: Place, hung: HungLight): void {
  if (light.kind === 'table') light.at = { x: round(centre[0], 1), y: round(centre[1], 1), z: light.at?.z ?? 1 }
  else if (light.kind === 'sun') {
    const { azimuth, elevation } = bearing(centre, hung.target as Place)
    Object.assign(light, { azimuth, elevation })
  } else Object.assign(light, bearing(centre, hung.target as Place))
}

/** Aim a light at a place; it hangs where it hung. */
export function aimAt(light: Light, target: Place, hung: HungLight): void {
  if (light.kind === 'table' || light.kind === 'sun') return
  const [x, y, z] = target.map((v) => round(v, 1)) as Place
  Object.assign(light, bearing(hung.centre as Place, target), { aim: { x, y, z } })
}

/** Where a light is drawn: a sun is brought near enough to be seen. */
export function drawnAt(light: Light, hung: HungLight, plan: Plan): Place {
  if (light.kind !== 'sun') return hung.centre as Place
  const way = hung.centre.map((v, k) => v - hung.target[k]!)
  const far = Math.hypot(...way)
  return hung.target.map((v, k) => v + (way[k]! / far) * SUN_AT * plan.reach) as Place
}

const TURNS = 24
/** The outline of a light's face, mm. */
export function outline(light: Light, hung: HungLight, plan: Plan): Place[] {
  const centre = drawnAt(light, hung, plan)
  const at = (x: number, y: number) => centre.map((v, k) => v + x * hung.across[k]! + y * hung.up[k]!) as Place
  if (light.kind === 'sun') return [centre]
  if (light.kind === 'spot' || light.kind === 'ball')
    return Array.from({ length: TURNS }, (_, i) =>
      at(Math.cos((2 * Math.PI * i) / TURNS), Math.sin((2 * Math.PI * i) / TURNS)),
    )
  return [at(-1, -1), at(1, -1), at(1, 1), at(-1, 1)]
}

type Chosen = Light['untouched'][number]
const same = (a: Chosen, b: Chosen) =>
  (a.standing ?? null) === (b.standing ?? null) && (a.part ?? null) === (b.part ?? null)
/** Whether something is among what is left out: itself, or all that it is of. */
export function leftOut(list: Chosen[], one: Chosen): boolean {
  return list.some(
    (l) =>
      same(l, one) ||
      ((l.standing ?? null) === null && (l.part ?? null) === null) ||
      ((l.part ?? null) === null && l.standing === one.standing && one.standing != null),
  )
}
/** A list with something put in or taken out; all that was left out at once is told apart by `all` first. */
export function toggled(list: Chosen[], one: Chosen, all: Chosen[]): Chosen[] {
  if (!leftOut(list, one)) return [...list, one]
  const apart = list.some((l) => same(l, one)) ? list : all.filter((other) => leftOut(list, other))
  return apart.filter((l) => !same(l, one))
}

function round(value: number, digits: number): number {
  return Number(value.toFixed(digits))
}
