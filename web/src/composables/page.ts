import type { Panel } from '@/api/client'

/** What a panel takes up when it lies flat, mm from its lower left corner. */
export interface Page {
  left: number
  foot: number
  width: number
  height: number
}
export type Outline = readonly (readonly number[])[]

/** Of a label that is developed, all of its outline; else the panel itself. */
export function pageOf(panel: Pick<Panel, 'width' | 'height'>, outline: Outline | null | undefined): Page {
  if (!outline?.length) return { left: 0, foot: 0, width: panel.width, height: panel.height }
  const [across, up] = [0, 1].map((k) => outline.map((place) => place[k]!)) as [number[], number[]]
  const [left, foot] = [Math.min(...across), Math.min(...up)]
  return { left, foot, width: Math.max(...across) - left, height: Math.max(...up) - foot }
}

/** A panel as large as its page, with everything placed on it where it was: as the core prints it. */
export function onItsPage(panel: Panel, outline: Outline | null | undefined): Panel {
  if (!outline?.length) return panel
  const { left, foot, width, height } = pageOf(panel, outline)
  const placements = panel.placements.map((one) => ({ ...one, x: one.x - left, y: one.y - foot }))
  return { ...panel, width, height, placements }
}
