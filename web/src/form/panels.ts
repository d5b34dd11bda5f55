import type { AnyShape } from '@/api/client'
import type { GrainPlace } from '@/composables/grain'
import { holds } from '@/flat/holds'

/** A panel of a carton: its blank's number, what it is called there, and what windows call it. */
export interface FoundPanel {
  blank: number
  name: string
  key: string
}

/** The panel of a carton at a place of a component's print, 0 to 1; null where there is none. */
export function panelAt(shape: AnyShape | null, component: string, on: [number, number] | null): FoundPanel | null {
  if (shape?.kind !== 'carton' || !on) return null
  const blank = shape.blanks.findIndex((one) => one.name === component)
  const its = shape.blanks[blank]
  if (!its) return null
  const at = [on[0] * its.size[0], on[1] * its.size[1]] as const
  const name = its.panels.find((panel) => holds(panel.outline, at))?.name
  return name ? { blank, name, key: keyOf(shape, component, name) } : null
}

/** What windows call a panel: of several blanks, after its component. */
export const keyOf = (shape: { blanks: readonly unknown[] }, component: string, name: string): string =>
  shape.blanks.length > 1 ? `${component} ${name}` : name

/** The middle of a panel, where its grain is shown; of the front of a carton where none is named. */
export function spotOn(shape: AnyShape | null, component?: string, name?: string): GrainPlace | undefined {
  if (shape?.kind !== 'carton') return undefined
  const blank = component ? shape.blanks.findIndex((one) => one.name === component) : 0
  const its = shape.blanks[blank]
  const called = (wanted: string) => its?.panels.find((one) => one.name === wanted)
  const panel = name ? called(name) : (called('front') ?? its?.panels[0])
  if (!its || !panel) return undefined
  const middle = ([0, 1] as const).map((k) => {
    const all = panel.outline.map((at) => at[k]!)
    return (Math.min(...all) + Math.max(...all)) / 2 / its.size[k]
  })
  return { part: its.name, panel: blank, on: [middle[0]!, middle[1]!] }
}
