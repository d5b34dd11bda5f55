import type { PixelPart } from './live'

/** A part of a picture as shares of its width and height, from its left and top. */
export interface Share {
  x: number
  y: number
  width: number
  height: number
}

export type ProofSize = 'small' | 'medium' | 'large'
/** How many pixels a proof has. */
export const PIXELS: Record<ProofSize, number> = { small: 60_000, medium: 150_000, large: 600_000 }
const LEAST_PX = 16
const MOST_SIDE_PX = 16_384

/** Width and height of a picture of about so many pixels. */
export function sizeOf(pixels: number, aspect: number): { width: number; height: number } {
  const width = Math.max(Math.round(Math.sqrt(pixels * aspect)), LEAST_PX)
  return { width, height: Math.max(Math.round(width / aspect), LEAST_PX) }
}

/**
 * What to ask for: the whole picture with so many pixels, or a part of it with as many, but never more finely than
 * the picture itself is going to be.
 */
export function proofSize(
  purpose: { width_px: number; height_px: number },
  pixels: number,
  share: Share | null,
): { width: number; height: number; part?: PixelPart } {
  const aspect = purpose.width_px / purpose.height_px
  const usual = sizeOf(pixels, aspect)
  if (!share) return usual
  const finest = Math.max(purpose.width_px * purpose.height_px, pixels)
  const close = sizeOf(Math.min(pixels / (share.width * share.height), finest), aspect)
  const shrink = Math.min(MOST_SIDE_PX / Math.max(close.width, close.height), 1)
  const [width, height] = [Math.floor(close.width * shrink), Math.floor(close.height * shrink)]
  const [left, across] = span(share.x, share.width, width)
  const [top, down] = span(share.y, share.height, height)
  return { width, height, part: { left, top, width: across, height: down } }
}

/** Start and length in whole pixels of a part that lies within so many. */
function span(start: number, length: number, whole: number): [number, number] {
  const pixels = Math.min(Math.max(Math.round(length * whole), LEAST_PX), whole)
  return [Math.min(Math.max(Math.round(start * whole), 0), whole - pixels), pixels]
}

/** Where a part lies over the picture, as a style. */
export function over(share: Share | null): Record<string, string> {
  if (!share) return {}
  const percent = (v: number) => `${100 * v}%`
  return {
    left: percent(share.x),
    top: percent(share.y),
    width: percent(share.width),
    height: percent(share.height),
    right: 'auto',
    bottom: 'auto',
  }
}
