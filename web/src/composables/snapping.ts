/** What a dragged point has snapped to, and where that leaves it. */
export interface Snapped {
  x: number
  y: number
  /** The other corner whose radius or height it took over, if any. */
  atX: number | null
  atY: number | null
}

/**
 * Snap a point to other points' radii and heights within `reach`, otherwise to a step.
 * `points` leaves out the point itself.
 */
export function snapPoint(
  at: { x: number; y: number },
  points: { x: number; y: number }[],
  reach: number,
  step: number,
): Snapped {
  const nearest = (value: number, values: number[]) => {
    const best = values.reduce<number | null>(
      (b, v) => (Math.abs(v - value) < Math.abs((b ?? Infinity) - value) ? v : b),
      null,
    )
    return best !== null && Math.abs(best - value) <= reach ? best : null
  }
  const atX = nearest(
    at.x,
    points.map((p) => p.x),
  )
  const atY = nearest(
    at.y,
    points.map((p) => p.y),
  )
  const stepped = (value: number) => Math.round(value / step) * step
  return { x: atX ?? stepped(at.x), y: atY ?? stepped(at.y), atX, atY }
}
