import type { Camera, View } from '@/api/client'

/** What a camera sees that has been walked about with since the core has said what it saw: the lens is the same. */
export function seenFrom(camera: Camera, before: Camera, view: View): View {
  const turn = (camera.azimuth * Math.PI) / 180
  const [x, y] = [camera.aim_x ?? 0, camera.aim_y ?? 0]
  const position = [x + camera.distance * Math.sin(turn), y - camera.distance * Math.cos(turn), camera.height]
  if (!camera.upright) return { ...view, position, target: [x, y, camera.aim_height] } as View
  const tall = ({ distance }: Camera) => 2 * distance * Math.tan((view.vertical_angle * Math.PI) / 360)
  const risen = (one: Camera) => (one.aim_height - one.height) / tall(one)
  const rise = view.rise + risen(camera) - risen(before)
  return { ...view, position, target: [x, y, camera.height], rise } as View
}
