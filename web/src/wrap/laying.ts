import type { Artwork, Pack, Panel } from '@/api/client'
import { type Page, pageOf } from '@/composables/page'

type Placement = NonNullable<Panel['placements']>[number]
interface Place {
  x: number
  y: number
}

/** Artwork as it came. */
const UNTREATED = {
  turn: 0,
  page: 1,
  without: [] as string[],
  crop: null,
  knock_out: 0,
  colour: null,
  invert: false,
  repeat: null,
  texts: {} as Record<string, string>,
  printed: true,
  areas: {},
}

/** What fills more of a label than this lies in its middle, wherever it was dropped. */
const LARGE = 0.8
/** So much larger than its label artwork may state itself to be, for bleed. */
const BLEED = 1.02

/** Layers of our templates and of drawings of blanks: they are not printed. */
const DRAWN = new Set(['cut', 'crease', 'perforation', 'glue', 'bleed', 'safe', 'middle', 'names'])
/** A page may go so many mm beyond its panel on every side, as templates and pages with bleed do. */
const MOST_AROUND = 40
const EVEN = 0.6

/** Whether a file's page is a panel's with the same margin all around. */
function drawnAround({ width, height }: Artwork, page: Page): boolean {
  const [beside, above] = [((width ?? 0) - page.width) / 2, ((height ?? 0) - page.height) / 2]
  return beside > 0 && beside < MOST_AROUND && Math.abs(beside - above) < EVEN / 2
}

const mm = (length: number): number => Number(length.toFixed(2))

/** Artwork on a label: as large as its file states, if that fits, otherwise as large as the label takes. */
export function laid(artwork: Artwork, panel: Panel, at?: Place, page = pageOf(panel, null)): Placement {
  const { width, height } = panel
  const whole = Math.min(width, height * artwork.aspect)
  const own = artwork.width ?? whole
  const template = drawnAround(artwork, page)
  const fits = own <= width * BLEED && own / artwork.aspect <= height * BLEED
  const size = template || fits ? own : whole
  const centre = { x: page.left + page.width / 2, y: page.foot + page.height / 2 }
  const middle = template ? centre : at && own < whole * LARGE ? at : { x: width / 2, y: height / 2 }
  return {
    artwork: artwork.sha256,
    x: mm(middle.x - size / 2),
    y: mm(middle.y - size / artwork.aspect / 2),
    width: mm(size),
    ...(JSON.parse(JSON.stringify(UNTREATED)) as typeof UNTREATED),
    without: (artwork.layers ?? []).filter((layer) => DRAWN.has(layer.toLowerCase())),
  }
}

/** What is said of artwork that was not laid as large as its file states; nothing where it was. */
export function sizeNote({ filename, width, height }: Artwork, placed: Pick<Placement, 'width'>): string {
  if (!width || !height || Math.abs(placed.width - width) < width * (BLEED - 1)) return ''
  const [across, up] = [width, height].map((side) => Number(side.toFixed(1)))
  return `${filename} states ${across} × ${up} mm and was placed ${placed.width} mm wide, to fit.`
}

/** Width over height of what is left of an artwork's page that is cropped. */
export function aspectOf(
  placement: Pick<Placement, 'crop'> & { page?: number },
  file: (Pick<Artwork, 'aspect'> & Partial<Artwork>) | undefined,
): number {
  const { crop, page = 1 } = placement
  const size = page > 1 ? file?.pages?.[page - 1] : undefined
  const aspect = size ? size[0]! / size[1]! : (file?.aspect ?? 1)
  return crop ? (aspect * (1 - crop.left - crop.right)) / (1 - crop.top - crop.bottom) : aspect
}

/** Where something lies in the middle of its label. */
export function centred({ width }: Pick<Placement, 'width'>, panel: Panel, aspect: number): Place {
  return { x: mm((panel.width - width) / 2), y: mm((panel.height - width / aspect) / 2) }
}

/** As wide as it takes to cover the whole label, about its middle. */
export function filling(panel: Panel, aspect: number): Place & { width: number } {
  const width = Math.max(panel.width, panel.height * aspect)
  return { width, x: (panel.width - width) / 2, y: (panel.height - width / aspect) / 2 }
}

/** Take a label off a pack; the states of those behind it go along with them. */
export function takeOff(pack: Pack, which: number): void {
  pack.panels!.splice(which, 1)
  const states = Object.entries(pack.parts ?? {}).flatMap(([name, state]) => {
    const index = Number(/^label-(\d+)$/.exec(name)?.[1] ?? 0) - 1
    if (index === which) return []
    return [[index > which ? `label-${index}` : name, state] as const]
  })
  pack.parts = Object.fromEntries(states)
}

/** A name that no label of a pack has yet. */
export function freeName(wanted: string, pack: Pack): string {
  const taken = new Set(pack.panels?.map((panel) => panel.name))
  let name = wanted
  for (let number = 2; taken.has(name); number++) name = `${wanted} ${number}`
  return name
}
