import type { Made, VesselPack } from '@/api/client'

/** Which field of a closure says what a part of it is made of. */
const FIELDS: Record<string, string> = {
  bulb: 'bulb',
  pipette: 'pipette',
  actuator: 'actuator',
  stem: 'actuator',
  'dip tube': 'tube',
  head: 'head',
}

/** What a part is made of; null when there is no such part. */
export function materialOf(pack: VesselPack, part: string): Made | null {
  if (part === 'body') return pack.form.body.material as Made
  if (part === 'contents') return (pack.form.contents?.material as Made) ?? null
  const label = /^label-(\d+)$/.exec(part)
  if (label) return (pack.panels?.[Number(label[1]) - 1]?.stock as Made) ?? null
  const closure = pack.form.closure as Record<string, unknown> | null | undefined
  return (closure?.[FIELDS[part] ?? 'material'] as Made) ?? null
}

/** Make a part of something else. */
export function setMaterial(pack: VesselPack, part: string, material: Made): void {
  const copy = JSON.parse(JSON.stringify(material)) as never
  const label = /^label-(\d+)$/.exec(part)
  if (part === 'body') pack.form.body.material = copy
  else if (part === 'contents') {
    if (pack.form.contents) pack.form.contents.material = copy
  } else if (label) {
    const panel = pack.panels?.[Number(label[1]) - 1]
    if (panel) panel.stock = copy
  } else if (pack.form.closure) Object.assign(pack.form.closure, { [FIELDS[part] ?? 'material']: copy })
}
