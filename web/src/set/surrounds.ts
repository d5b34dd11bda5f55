import type { Behind, Panorama, StudioCard, Surround } from '@/api/client'

export type Uneven = Exclude<Surround, { kind: 'even' }>
/** A white sheet beneath a picture that has just come is as bright as this, paper white being 1. */
const LYING = 0.9
const STRONGEST = 100

/** A picture that was brought, as bright as a set wants it. */
export function surroundOf(picture: Panorama): Surround {
  const strength = Math.min(LYING / Math.max(picture.lying, 1e-6), STRONGEST)
  return {
    ...{ kind: 'picture', picture: picture.sha256, name: picture.name, strength: Number(strength.toPrecision(3)) },
    ...{ tint: '#ffffff', turn: 0, saturation: 1, contrast: 1, blur: 0, held: 'world' },
  }
}

/** Degrees from -180 to 180. */
export const around = (degrees: number): number => Math.round((((degrees % 360) + 540) % 360) * 10 - 1800) / 10

/** Where a direction is on a flat map: shares of its width and height. A light's azimuth counts from the camera. */
export function onMap(azimuth: number, elevation: number): [number, number] {
  return [(around(180 - azimuth) + 180) / 360, (90 - elevation) / 180]
}
/** What direction a place of the map is: azimuth and elevation of a light there. */
export function fromMap(x: number, y: number): [number, number] {
  return [around(180 - (x * 360 - 180)), Math.round(Math.min(Math.max(90 - y * 180, -90), 90) * 10) / 10]
}

/** One more card, told apart from the others. */
export function anotherCard(cards: StudioCard[]): StudioCard {
  const taken = new Set(cards.map((card) => card.name))
  let number = cards.length + 1
  while (taken.has(`Card ${number}`)) number++
  return {
    ...{ name: `Card ${number}`, azimuth: -45, elevation: 30, width: 40, height: 40 },
    ...{ radiance: 4, soft: 0.3, temperature_k: null },
  }
}

const WINDS = ['north', 'north-east', 'east', 'south-east', 'south', 'south-west', 'west', 'north-west']
/** Where the sun stands, in words. */
export function sunWords(sun: { azimuth: number; elevation: number }): string {
  if (sun.elevation <= 0) return 'The sun is down: the sky glows, but nothing throws a shadow.'
  const wind = WINDS[Math.round(sun.azimuth / 45) % 8]
  return `The sun stands ${Math.round(sun.elevation)}° high in the ${wind}.`
}

/** What can be seen behind what stands, in our words. */
export const BEHIND: { value: string; label: string }[] = [
  { value: 'sweep', label: 'the sweep' },
  { value: 'white', label: 'white' },
  { value: 'colour', label: 'a colour' },
  { value: 'gradient', label: 'a gradient' },
  { value: 'picture', label: 'a picture' },
  { value: 'surround', label: 'what is all around' },
]
const WHITE = '#ffffff'
export const behindKind = (behind: Behind): string =>
  behind.kind === 'colour' && behind.colour === WHITE ? 'white' : behind.kind

/** Something else behind, of a kind; a picture needs one. */
export function behindOf(kind: string, picture: string): Behind {
  const made: Record<string, Behind> = {
    white: { kind: 'colour', colour: WHITE, shadow: true },
    colour: { kind: 'colour', colour: '#d8cfc2', shadow: true },
    gradient: { kind: 'gradient', first: '#f4f1ec', second: '#b9b5ae', turn: 0, round: false, shadow: true },
    picture: { kind: 'picture', picture, blur: 0, shadow: true },
    surround: { kind: 'surround', other: null, blur: 0, shadow: true },
  }
  return made[kind] ?? { kind: 'sweep' }
}
