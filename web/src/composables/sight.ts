/** What can be told of a picture by its pixels, four bytes each: red, green, blue and opacity. */
export interface Sight {
  /** How many pixels are of each of 64 brightnesses, over the most of these. */
  bars: number[]
  /** Shares that are exactly white, cut off in some channel, and black. */
  white: number
  clipped: number
  black: number
}
/** Lines over a picture: its thirds, its middle, what is safe at its edges, room for a text. */
export type Lines = 'thirds' | 'middle' | 'safe' | 'text'
const BARS = 64
const FULL = 255

/** Luminance of the code values themselves (ITU-R BT.709), 0 to 255. */
const bright = (p: Uint8ClampedArray, i: number) => 0.2126 * p[i]! + 0.7152 * p[i + 1]! + 0.0722 * p[i + 2]!
const isWhite = (p: Uint8ClampedArray, i: number) => p[i] === FULL && p[i + 1] === FULL && p[i + 2] === FULL
const isClipped = (p: Uint8ClampedArray, i: number) =>
  !isWhite(p, i) && (p[i] === FULL || p[i + 1] === FULL || p[i + 2] === FULL)
const isBlack = (p: Uint8ClampedArray, i: number) => p[i] === 0 && p[i + 1] === 0 && p[i + 2] === 0

export function sightOf(pixels: Uint8ClampedArray): Sight {
  const counts = new Array<number>(BARS).fill(0)
  let [white, clipped, black] = [0, 0, 0]
  for (let i = 0; i < pixels.length; i += 4) {
    counts[Math.min(Math.floor((bright(pixels, i) / (FULL + 1)) * BARS), BARS - 1)]! += 1
    if (isWhite(pixels, i)) white += 1
    else if (isClipped(pixels, i)) clipped += 1
    else if (isBlack(pixels, i)) black += 1
  }
  const all = Math.max(pixels.length / 4, 1)
  const most = Math.max(...counts, 1)
  return { bars: counts.map((n) => n / most), white: white / all, clipped: clipped / all, black: black / all }
}

/** Colours that say how bright a place is, up to a code value each: from too dark over a middle grey to white. */
export const LEVELS: { upTo: number; colour: [number, number, number]; words: string }[] = [
  { upTo: 4, colour: [45, 20, 90], words: 'black' },
  { upTo: 40, colour: [40, 70, 160], words: 'deep' },
  { upTo: 95, colour: [40, 140, 150], words: 'dark' },
  { upTo: 135, colour: [80, 150, 80], words: 'middle' },
  { upTo: 190, colour: [190, 180, 90], words: 'light' },
  { upTo: 235, colour: [220, 140, 60], words: 'bright' },
  { upTo: 254, colour: [205, 80, 60], words: 'near white' },
  { upTo: 255, colour: [255, 255, 255], words: 'white' },
]

/** A picture in which each place has the colour of its brightness. */
export function byBrightness(pixels: Uint8ClampedArray): Uint8ClampedArray<ArrayBuffer> {
  const shown = new Uint8ClampedArray(pixels.length)
  for (let i = 0; i < pixels.length; i += 4) {
    const level = LEVELS.find((one) => Math.floor(bright(pixels, i) + 0.001) <= one.upTo) ?? LEVELS.at(-1)!
    shown.set([...level.colour, FULL], i)
  }
  return shown
}

const STRIPE = 6
/** Stripes over what is exactly white (grey) and over what is cut off in some channel (red); else nothing. */
export function cutOff(pixels: Uint8ClampedArray, width: number): Uint8ClampedArray<ArrayBuffer> {
  const shown = new Uint8ClampedArray(pixels.length)
  for (let i = 0; i < pixels.length; i += 4) {
    const place = i / 4
    if (Math.floor(((place % width) + Math.floor(place / width)) / STRIPE) % 2) continue
    if (isWhite(pixels, i)) shown.set([120, 120, 120, FULL], i)
    else if (isClipped(pixels, i)) shown.set([200, 30, 50, FULL], i)
  }
  return shown
}
