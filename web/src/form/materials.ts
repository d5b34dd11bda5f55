import type { Carton, Label, Made, Material, Pack, Received, ReceivedPart } from '@/api/client'
import { CLOSURES } from './fields'

/** Which field of a closure says what a part of it is made of. */
const FIELDS: Record<string, string> = {
  bulb: 'bulb',
  pipette: 'pipette',
  actuator: 'actuator',
  stem: 'actuator',
  'dip tube': 'tube',
  head: 'head',
}

/** The part that a field of a closure says what it is made of, among those that there are. */
export const partOfField = (field: string, parts: readonly string[]): string | undefined =>
  parts.find(
    (part) =>
      !['body', 'contents'].includes(part) && !part.startsWith('label-') && (FIELDS[part] ?? 'material') === field,
  )

/** The received models in a pack: what it is formed as, and those that were added. */
function modelsIn(pack: Pack): Received[] {
  const own = pack.form.kind === 'received' ? [pack.form] : []
  return [...own, ...(pack.added ?? []).map((addition) => addition.received)]
}

/** A part of a received model in a pack, by its name. */
function receivedPart(pack: Pack, name: string): ReceivedPart | undefined {
  return modelsIn(pack)
    .flatMap((model) => model.parts)
    .find((part) => part.name === name)
}

/** Call a part of a received model something else, wherever the pack speaks of it. */
export function renamePart(pack: Pack, from: string, to: string): void {
  const part = receivedPart(pack, from)
  if (!part || !to || from === to) return
  part.name = to
  for (const panel of pack.panels ?? []) if (panel.kind === 'picked' && panel.part === from) panel.part = to
  for (const copy of pack.copies ?? []) if (copy.of === from) copy.of = to
  pack.parts = Object.fromEntries(
    Object.entries(pack.parts ?? {}).map(([name, state]) => [name === from ? to : name, state]),
  )
}

/** A model whose parts are called like nothing in a pack yet. */
export function toldApart(received: Received, taken: string[]): Received {
  const names = new Set(taken)
  const parts = received.parts.map((part) => {
    let name = part.name
    for (let number = 2; names.has(name); number++) name = `${part.name} ${number}`
    names.add(name)
    return { ...part, name }
  })
  return { ...received, parts }
}

/** The whole board of a carton, and single panels of it, as parts that materials are put on. */
export const BOARD = 'board'
const FACE = 'face '
export const faceOf = (key: string) => `${FACE}${key}`
/** The panel that a part is, as windows call it. */
export const panelOf = (part: string) => (part.startsWith(FACE) ? part.slice(FACE.length) : null)

const ANY: Material['kind'][] = ['clear', 'cloudy', 'opaque', 'metal']
/** What labels can be printed on. */
export const STOCK_KINDS: Material['kind'][] = ['opaque', 'metal', 'clear']

/** What a pack's sheets are printed on: the label that a part is, if it is one. */
function labelAt(pack: Pack, part: string): Label | undefined {
  const number = /^label-(\d+)$/.exec(part)?.[1]
  return number ? pack.panels?.[Number(number) - 1] : undefined
}

/** Which kinds of material a part can be made of; none when there is no such part. */
export function kindsOf(pack: Pack, part: string): Material['kind'][] {
  if (labelAt(pack, part)) return STOCK_KINDS
  if (pack.form.kind === 'carton') return ['opaque']
  if (!materialOf(pack, part)) return []
  if (receivedPart(pack, part) || part === 'body') return ANY
  if (part === 'contents') return ['clear', 'cloudy', 'opaque']
  const closure = pack.form.kind === 'vessel' ? pack.form.closure : null
  const fields = CLOSURES.find((kind) => kind.kind === closure?.kind)?.materials
  return fields?.find((field) => field.name === (FIELDS[part] ?? 'material'))?.kinds ?? []
}

/** What a part is made of; null when there is no such part. */
export function materialOf(pack: Pack, part: string): Made | null {
  const received = receivedPart(pack, part)
  if (received) return received.material as Made
  const label = labelAt(pack, part)
  if (label) return (label.stock as Made) ?? null
  if (pack.form.kind === 'carton') return (pack.form.faces?.[panelOf(part) ?? ''] ?? pack.form.board.outside) as Made
  if (pack.form.kind !== 'vessel') return null
  if (part === 'body') return pack.form.body.material as Made
  if (part === 'contents') return (pack.form.contents?.material as Made) ?? null
  const closure = pack.form.closure as Record<string, unknown> | null | undefined
  return (closure?.[FIELDS[part] ?? 'material'] as Made) ?? null
}

/** Make a panel's outside of something else, or all of the board's. */
function setOnBoard(carton: Carton, panel: string | null, material: Carton['board']['outside']): void {
  if (panel === null) carton.board.outside = material
  else carton.faces = { ...carton.faces, [panel]: material }
}

/** Print a label on something else; what has a pattern of its own has no tooth besides. */
export function printOn(label: Label, material: Material | Made): void {
  label.stock = JSON.parse(JSON.stringify(material)) as never
  const paper = material.kind === 'linked' || (material.kind === 'opaque' && !material.grain)
  if (!paper) label.tooth = 'smooth'
}

/** Make a part of something else. */
export function setMaterial(pack: Pack, part: string, material: Made): void {
  const copy = JSON.parse(JSON.stringify(material)) as never
  const received = receivedPart(pack, part)
  const label = labelAt(pack, part)
  if (received) received.material = copy
  else if (label) printOn(label, copy)
  else if (pack.form.kind === 'carton') setOnBoard(pack.form, panelOf(part), copy)
  if (received || label || pack.form.kind !== 'vessel') return
  if (part === 'body') pack.form.body.material = copy
  else if (part === 'contents') {
    if (pack.form.contents) pack.form.contents.material = copy
  } else if (pack.form.closure) Object.assign(pack.form.closure, { [FIELDS[part] ?? 'material']: copy })
}
