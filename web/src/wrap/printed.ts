import type { AnyShape, FlatBlank, Label, Laid, Pack, Panel } from '@/api/client'
import type { Outline } from '@/composables/page'

/** Something on a pack that is printed: a label, a carton's blank, or a part of a received model. */
export interface Sheet {
  kind: 'label' | 'blank' | 'part'
  panel: Panel
  /** What it is called among the pack's parts, and where in the pack it is said. */
  part: string
  place: string
  /** The label itself, where it is one, and which. */
  label: Label | null
  index: number
  blank: FlatBlank | null
  /** How a label was laid, once it was. */
  laid: Laid | null
  /** What it is lying flat where it is developed. */
  outline: Outline | null
}

/** How a label of a pack lies, once it was shaped. */
const laidOf = (shape: AnyShape | null, index: number): Laid | null => shape?.sheets[index] ?? null

/** Everything on a pack that is printed, in the order in which its surfaces name it. */
export function sheetsOf(pack: Pack, shape: AnyShape | null): Sheet[] {
  const { form } = pack
  const labels = (pack.panels ?? []).map((label, index) => ({
    kind: 'label' as const,
    panel: label,
    part: `label-${index + 1}`,
    place: `panels.${index}`,
    label,
    index,
    blank: null,
    laid: laidOf(shape, index),
    outline: laidOf(shape, index)?.outline ?? null,
  }))
  if (form.kind === 'vessel') return labels
  if (form.kind === 'carton') {
    const blanks = (shape?.kind === 'carton' ? shape.blanks : []).map((blank, index) => ({
      kind: 'blank' as const,
      panel: {
        ...(shape as { panels: Panel[] }).panels[index]!,
        placements: form.prints?.[blank.name] ?? [],
        run: form.runs?.[blank.name] ?? [],
      },
      part: blank.name,
      place: `form.prints.${blank.name}`,
      label: null,
      index,
      blank,
      laid: null,
      outline: null,
    }))
    return [...blanks, ...(blanks.length ? labels : [])]
  }
  const count = form.parts.filter((p) => p.role !== 'left out' && (p.sheet || p.role === 'label')).length
  const printed = (shape?.kind === 'received' ? shape.panels : []).slice(0, count)
  const parts = printed.flatMap((panel) => {
    const index = form.parts.findIndex((part) => part.name === panel.name)
    const part = form.parts[index]
    if (!part) return []
    const shown = { ...panel, placements: part.prints ?? [], run: part.run ?? [] }
    const place = `form.parts.${index}.prints`
    return [
      {
        kind: 'part' as const,
        panel: shown,
        part: part.name,
        place,
        label: null,
        index,
        blank: null,
        laid: null,
        outline: null,
      },
    ]
  })
  return [...parts, ...labels]
}

/** Change a sheet in its pack; of a blank or a part only what is printed on it can be. */
export function changeSheet(pack: Pack, sheet: Sheet, change: (panel: Panel) => void): void {
  if (sheet.kind === 'label') return change(pack.panels[sheet.index]!)
  const printed = JSON.parse(JSON.stringify(sheet.panel)) as Panel
  change(printed)
  const { name, placements, run } = printed
  if (pack.form.kind === 'carton') {
    pack.form.prints = { ...pack.form.prints, [name]: placements }
    pack.form.runs = { ...pack.form.runs, [name]: run ?? [] }
  }
  if (pack.form.kind === 'received')
    Object.assign(pack.form.parts[sheet.index]!, { prints: placements, run: run ?? [] })
}
