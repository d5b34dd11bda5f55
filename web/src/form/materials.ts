import type { Material, Pack } from '@/api/client'

/** Which field of a closure says what a part of it is made of. */
const FIELDS: Record<string, string> = {
  bulb: 'bulb', pipette: 'pipette', actuator: 'actuator', stem: 'actuator', 'dip tube': 'tube', head: 'head',
}

/** What a part is made of; null when there is no such part. */
export function materialOf(pack: Pack, part: string): Material | null {
  if (part === 'body') return pack.body.material as Material
  if (part === 'contents') return (pack.contents?.material as Material) ?? null
  const label = /^label-(\d+)$/.exec(part)
  if (label) return (pack.panels?.[Number(label[1]) - 1]?.stock as Material) ?? null
  const closure = pack.closure as Record<string, unknown> | null | undefined
  return (closure?.[FIELDS[part] ?? 'material'] as Material) ?? null
}

/** Make a part of something else. */
export function setMaterial(pack: Pack, part: string, material: Material): void {
  const copy = JSON.parse(JSON.stringify(material)) as never
  const label = /^label-(\d+)$/.exec(part)
  if (part === 'body') pack.body.material = copy
  else if (part === 'contents') { if (pack.contents) pack.contents.material = copy }
  else if (label) { const panel = pack.panels?.[Number(label[1]) - 1]; if (panel) panel.stock = copy }
  else if (pack.closure) Object.assign(pack.closure, { [FIELDS[part] ?? 'material']: copy })
}
