import type { AnyShape, Label, Pack } from '@/api/client'
import { drawnTo, type Guide, spanGuides } from '@/composables/guides'

type Place = readonly [number, number, number]
type Around = Extract<Label, { kind: 'wrap' | 'sleeve' }>

const round = (value: number) => Number(value.toFixed(2))
const SNAP_MM = 1.5
const SNAP_DEGREES = 3
const QUARTERS = [
  { at: 0, name: 'the front' },
  { at: 90, name: 'the right side' },
  { at: -90, name: 'the left side' },
  { at: 180, name: 'the back' },
  { at: -180, name: 'the back' },
]

/** Degrees of a place around the pack's axis from the front to the right. */
export const angleOf = ([x, y]: Place): number => (Math.atan2(x, -y) * 180) / Math.PI

/** An angle between −180° and 180°. */
export function wrapped(angle: number): number {
  const turned = (((angle + 180) % 360) + 360) % 360
  return turned === 0 && angle > 0 ? 180 : turned - 180
}

/** What a label that is dragged up and down is drawn to: zones of the wall and other labels. */
export function guidesUp(pack: Pack, shape: AnyShape | null, which: number): Guide[] {
  const zones = shape?.kind === 'vessel' ? shape.zones : []
  const others = pack.panels.flatMap((label, index) =>
    index !== which && (label.kind === 'wrap' || label.kind === 'sleeve')
      ? spanGuides(label.from_base, label.from_base + label.height, `“${label.name}”`)
      : [],
  )
  return [...zones.flatMap((zone) => spanGuides(zone.bottom, zone.top, `the ${zone.name}`)), ...others]
}

/** And around: the front, the sides, the back, and other labels' middles. */
export function guidesAround(pack: Pack, which: number): Guide[] {
  const others = pack.panels.flatMap((label, index) =>
    index !== which && label.kind !== 'picked'
      ? [{ at: wrapped(label.centre_angle ?? 0), name: `the middle of “${label.name}”` }]
      : [],
  )
  return [...QUARTERS, ...others]
}

/** How a label lies when it was taken hold of at one place on the pack and brought to another, and what it was
 * drawn to. `turned` packs stand upside down. */
export function carriedTo(
  label: Label,
  from: Place,
  to: Place,
  guides: { up: readonly Guide[]; around: readonly Guide[] },
  { turned = false, free = false } = {},
): { change: Partial<Around>; names: string[] } {
  if (label.kind === 'picked') return { change: {}, names: [] }
  const way = turned ? -1 : 1
  const angle = wrapped((label.centre_angle ?? 0) + way * (angleOf(to) - angleOf(from)))
  const around = drawnTo(angle, [0], guides.around, free ? 0 : SNAP_DEGREES)
  const change: Partial<Around> = { centre_angle: round(around.value) }
  const names = around.guide ? [around.guide.name] : []
  if (label.kind === 'seal') return { change, names }
  const foot = Math.max(label.from_base + way * (to[2] - from[2]), 0)
  const edges = [0, label.height / 2, label.height]
  const up = drawnTo(foot, edges, guides.up, free ? 0 : SNAP_MM)
  change.from_base = round(Math.max(up.value, 0))
  return { change, names: up.guide ? [...names, up.guide.name] : names }
}
