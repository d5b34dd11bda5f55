import type { Camera, View } from '@/api/client'

/** How many mm of what it is aimed at a camera takes in from top to bottom. */
export function takenIn(camera: Camera, view: View): number {
  if (view.height !== null) return view.height
  const away = camera.upright ? camera.distance : Math.hypot(camera.distance, camera.height - camera.aim_height)
  return 2 * away * Math.tan((view.vertical_angle * Math.PI) / 360)
}

/** What a camera sees that has been walked about with since the core has said what it saw: the lens is the same. */
export function seenFrom(camera: Camera, before: Camera, view: View): View {
  const turn = (camera.azimuth * Math.PI) / 180
  const [x, y] = [camera.aim_x ?? 0, camera.aim_y ?? 0]
  const position = [x + camera.distance * Math.sin(turn), y - camera.distance * Math.cos(turn), camera.height]
  if (!camera.upright) return { ...view, position, target: [x, y, camera.aim_height] } as View
  const risen = (one: Camera) => (one.aim_height - one.height) / takenIn(one, view)
  const rise = view.rise + risen(camera) - risen(before)
  return { ...view, position, target: [x, y, camera.height], rise } as View
}
