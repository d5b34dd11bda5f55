import type * as THREE from 'three'

import type { PackInTheRound } from './packInTheRound'

/** A place on a panel's print, 0 to 1, or a way from one to another, that is shown. */
export interface Mark {
  panel: number
  places: [number, number][]
}

/** A mark as it is seen, px; what lies behind is drawn fainter. */
export interface SeenMark {
  points: [number, number][]
  behind: boolean
}

/** Steps in which a way over the pack is drawn. */
const WAY_STEPS = 40

/** Where marks on prints are seen by a camera on a canvas. */
export function seenMarks(
  marks: readonly Mark[],
  pack: PackInTheRound,
  camera: THREE.Camera,
  canvas: HTMLCanvasElement,
): SeenMark[] {
  if (!marks.length) return []
  const { width, height } = canvas.getBoundingClientRect()
  camera.updateMatrixWorld()
  return marks.flatMap(({ panel, places: [first, last = first] }) => {
    if (!first || !last) return []
    const count = last === first ? 0 : WAY_STEPS
    const found = Array.from({ length: count + 1 }, (_, i) => {
      const share = count ? i / count : 0
      return pack.placeOn(panel, [first[0] + share * (last[0] - first[0]), first[1] + share * (last[1] - first[1])])
    }).filter((one) => one !== null)
    if (!found.length) return []
    const facing = found.filter(({ at, facing }) => facing.dot(camera.position.clone().sub(at)) > 0).length
    const points = found.map(({ at }): [number, number] => {
      const seen = at.project(camera)
      return [((seen.x + 1) / 2) * width, ((1 - seen.y) / 2) * height]
    })
    return [{ points, behind: facing < found.length / 2 }]
  })
}
