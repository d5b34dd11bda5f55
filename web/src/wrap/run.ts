import type { Layer, Panel, StartingRun } from '@/api/client'
import { clear, metal, opaque } from '@/composables/made'

/** The run of a panel that has none: artwork in its own colours. */
export const PLAIN: readonly Layer[] = [{ kind: 'ink', name: 'Ink', covers: 'placed', material: null, hiding: 1 }]
export const METALS = ['gold', 'silver', 'copper', 'aluminium', 'chrome'] as const

/** Stocks as they are when they are first chosen. */
export const STOCKS = {
  opaque: opaque({ colour: '#fbf9f4', gloss: 0.15, density: 0.95 }),
  metal: metal({ metal: 'aluminium', gloss: 0.75, density: 2.7 }),
  clear: clear({ refractive_index: 1.5, colour: '#ffffff', depth: 10, density: 0.95 }),
  bare: { kind: 'bare' },
} as const satisfies Record<string, Panel['stock']>

/** Layers as they are when they are first added. */
const LAYERS: { [K in Layer['kind']]: Extract<Layer, { kind: K }> } = {
  white: { kind: 'white', name: 'White', covers: 'ink', hiding: 0.95 },
  ink: {
    kind: 'ink',
    name: 'Second ink',
    covers: 'placed',
    material: opaque({ colour: '#b3324c', gloss: 0.4, density: 0.95 }),
    hiding: 1,
  },
  foil: {
    kind: 'foil',
    name: 'Foil',
    covers: 'placed',
    material: metal({ metal: 'gold', gloss: 0.85, density: 2.7 }),
    hot: true,
    holographic: false,
  },
  varnish: { kind: 'varnish', name: 'Varnish', covers: 'placed', gloss: 1, height: 0 },
  emboss: { kind: 'emboss', name: 'Emboss', covers: 'placed', height: 0.25, flank: 0.4 },
  cut: { kind: 'cut', name: 'Die-cut', covers: 'placed', slit: null, tie: 0.8 },
}

const copied = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T
const runOf = (panel: Panel): Layer[] => (panel.run = panel.run?.length ? panel.run : copied([...PLAIN]))

/** Print on something else. */
export function takeStock(panel: Panel, kind: keyof typeof STOCKS): void {
  panel.stock = copied(STOCKS[kind])
  if (kind !== 'opaque') panel.tooth = 'smooth'
}

/** Add a layer where the press has it: white first, others last; under a name of its own. */
export function added(panel: Panel, kind: Layer['kind']): void {
  const run = runOf(panel)
  const layer = copied(LAYERS[kind]) as Layer
  const wanted = layer.name
  for (let number = 2; run.some((one) => one.name === layer.name); number++) layer.name = `${wanted} ${number}`
  if (kind === 'white') run.unshift(layer)
  else run.push(layer)
}

/** Print a layer earlier or later. */
export function moved(panel: Panel, index: number, by: number): void {
  const run = runOf(panel)
  run.splice(index + by, 0, ...run.splice(index, 1))
}

/** Leave a layer out; artwork does not say any more where it is. */
export function without(panel: Panel, index: number): void {
  runOf(panel).splice(index, 1)
  keepTold(panel)
}

/** Let an artwork be a layer: it is where all of it is, and not printed in ink as well. */
export function shaped(panel: Panel, index: number, layer: Layer): void {
  const placement = panel.placements[index]!
  placement.areas = { ...placement.areas, [layer.name]: 'shape' }
  if (layer.kind !== 'white' && layer.kind !== 'varnish') placement.printed = false
}

/** Print as a starting run does; artwork keeps saying where layers of the same names are. */
export function startFrom(panel: Panel, start: StartingRun, own: boolean): void {
  panel.run = copied(start.run)
  if (own) Object.assign(panel, { stock: copied(start.stock), stock_thickness: start.thickness, tooth: start.tooth })
  keepTold(panel)
}

/** Artwork says where layers are that there are, and is printed again if it says nothing else. */
function keepTold(panel: Panel): void {
  const names = new Set(panel.run?.map((layer) => layer.name))
  for (const one of panel.placements) {
    one.areas = Object.fromEntries(Object.entries(one.areas ?? {}).filter(([name]) => names.has(name)))
    if (!Object.keys(one.areas).length) one.printed = true
  }
}

/** Layers of a panel that artwork can say where they are. */
export function told(panel: Panel): Layer[] {
  return (panel.run ?? []).filter((one) => one.covers === 'placed' && !(one.kind === 'ink' && !one.material))
}
