import { describe, expect, it } from 'vitest'

import type { AnyShape, Pack, Panel } from '@/api/client'
import { added } from './run'
import { changeSheet, sheetsOf } from './printed'

const printed = (name: string) => ({ name, width: 40, height: 30, placements: [] })
const label = { kind: 'picked', name: 'Tag', part: 'Bottle', at: [0, 0, 0], width: 9, height: 9, placements: [] }
const received = () =>
  ({
    form: {
      kind: 'received',
      parts: [
        { name: 'Bottle', role: 'container', prints: [] },
        { name: 'Front', role: 'label', sheet: [40, 30], prints: [{ artwork: 'a', x: 0, y: 0, width: 40 }] },
        { name: 'Old', role: 'left out', sheet: [9, 9], prints: [] },
      ],
    },
    panels: [label],
  }) as unknown as Pack
const shape = {
  kind: 'received',
  panels: [printed('Front'), printed('Tag')],
  sheets: [{ worst: 0.02, outline: null }],
} as unknown as AnyShape

describe('what is printed on a pack', () => {
  it('is what parts of a model carry, then its labels', () => {
    const sheets = sheetsOf(received(), shape)
    expect(sheets.map((one) => [one.kind, one.panel.name])).toEqual([
      ['part', 'Front'],
      ['label', 'Tag'],
    ])
    expect(sheets[0]!.panel.placements).toHaveLength(1)
    expect(sheets[1]!.laid!.worst).toBe(0.02)
    expect(sheets[1]!.part).toBe('label-1')
  })
  it('shows labels before the model was put together', () => {
    expect(sheetsOf(received(), null).map((one) => one.kind)).toEqual(['label'])
  })
  it('is changed where the pack says it', () => {
    const pack = received()
    const sheets = sheetsOf(pack, shape)
    changeSheet(pack, sheets[0]!, (panel) => (panel.placements[0]!.x = 7))
    changeSheet(pack, sheets[1]!, (panel) => (panel.width = 12))
    expect((pack.form as { parts: { prints: { x: number }[] }[] }).parts[1]!.prints[0]!.x).toBe(7)
    expect(pack.panels[0]!.width).toBe(12)
  })
  it('is blanks on a carton', () => {
    const pack = { form: { kind: 'carton', prints: {} }, panels: [] } as unknown as Pack
    const folded = { kind: 'carton', blanks: [{ name: 'lid' }], panels: [printed('lid')] } as unknown as AnyShape
    const [lid] = sheetsOf(pack, folded)
    changeSheet(pack, lid!, (panel) => {
      panel.placements.push({ artwork: 'a', x: 1, y: 2, width: 3 } as Panel['placements'][number])
      added(panel, 'foil')
    })
    const form = pack.form as { prints: Record<string, unknown[]>; runs: Record<string, { kind: string }[]> }
    expect(form.prints['lid']).toHaveLength(1)
    expect(form.runs['lid']!.map((layer) => layer.kind)).toEqual(['ink', 'foil'])
  })
})
