import type { Camera, Shot } from '@/api/client'

type View = NonNullable<Shot['views']>[number]

/** Sizes of pictures by what they are for (common practice); print ones at 300 to the inch. */
export const FORMATS: { label: string; width: number; height: number }[] = [
  { label: 'upright, 4 : 5', width: 1600, height: 2000 },
  { label: 'square, for a shop', width: 2000, height: 2000 },
  { label: 'wide, 3 : 2', width: 2400, height: 1600 },
  { label: 'a page’s banner, 16 : 9', width: 1920, height: 1080 },
  { label: 'a story, 9 : 16', width: 1080, height: 1920 },
  { label: 'A4 upright, print', width: 2480, height: 3508 },
  { label: 'A4 across, print', width: 3508, height: 2480 },
]
export const formatOf = (width: number, height: number): string =>
  FORMATS.find((one) => one.width === width && one.height === height)?.label ?? ''

/** Another lens that takes in the same at what it is aimed at, from the same direction. */
export function keepingCrop(camera: Camera, lens: number): Camera {
  const nearer = lens / camera.lens_mm
  const round = (v: number) => Math.round(v * 100) / 100
  return {
    ...camera,
    lens_mm: lens,
    distance: Math.min(round(camera.distance * nearer), 5000),
    height: round(camera.aim_height + (camera.height - camera.aim_height) * nearer),
  }
}

/**
 * The camera moved aside and up or down with what it is aimed at, by shares of its picture, to the right and down.
 * The picture takes in `tall` mm of that from top to bottom.
 */
export function panned(camera: Camera, tall: number, aspect: number, right: number, down: number): Camera {
  const round = (v: number) => Math.round(v * 10) / 10
  const turn = (camera.azimuth * Math.PI) / 180
  const [aside, up] = [-right * tall * aspect, down * tall]
  return {
    ...camera,
    aim_x: round((camera.aim_x ?? 0) + aside * Math.cos(turn)),
    aim_y: round((camera.aim_y ?? 0) + aside * Math.sin(turn)),
    aim_height: round(camera.aim_height + up),
    height: round(camera.height + up),
  }
}

/** A name for a view that none of the others has. */
export function viewName(views: View[], wanted: string): string {
  const stem = wanted.trim() || 'View'
  const taken = new Set(views.map((one) => one.name))
  if (!taken.has(stem) && wanted.trim()) return stem
  let number = 1
  while (taken.has(`${stem} ${number}`)) number++
  return `${stem} ${number}`
}
