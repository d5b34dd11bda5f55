import { describe, expect, it } from 'vitest'

import type { Pack, Received } from '@/api/client'
import { kindsOf, materialOf, printOn, renamePart, setMaterial, toldApart } from './materials'

const clay = { kind: 'opaque', colour: '#884422', gloss: 0.1, density: 2 } as const
const model = (...names: string[]) =>
  ({ parts: names.map((name) => ({ name, material: { ...clay } })) }) as unknown as Received
const pack = () =>
  ({
    form: { ...model('Bottle', 'Cap'), kind: 'received' },
    panels: [{ kind: 'picked', part: 'Cap' }],
    copies: [{ of: 'Cap' }],
    parts: { Cap: { hidden: true }, Bottle: { locked: true } },
    added: [{ received: model('Pebble') }],
  }) as unknown as Pack

describe('parts of received models', () => {
  it('are called something else wherever the pack speaks of them', () => {
    const one = pack()
    renamePart(one, 'Cap', 'Lid')
    expect(materialOf(one, 'Lid')).toEqual(clay)
    expect(one.panels[0]).toMatchObject({ part: 'Lid' })
    expect(one.copies[0]!.of).toBe('Lid')
    expect(Object.keys(one.parts)).toEqual(['Lid', 'Bottle'])
  })
  it('keep their names when there is no other', () => {
    const one = pack()
    renamePart(one, 'Cap', '')
    renamePart(one, 'Nothing', 'Lid')
    expect(materialOf(one, 'Cap')).toEqual(clay)
  })
  it('are made of something else, in the form as in what was added', () => {
    const one = pack()
    for (const part of ['Bottle', 'Pebble']) setMaterial(one, part, { ...clay, sheen: 0, passes: 0, colour: '#ffffff' })
    expect(materialOf(one, 'Bottle')).toMatchObject({ colour: '#ffffff' })
    expect(materialOf(one, 'Pebble')).toMatchObject({ colour: '#ffffff' })
    expect(materialOf(one, 'Cap')).toEqual(clay)
  })
  it('get names that a pack does not have yet', () => {
    expect(toldApart(model('Cap', 'Cap 2', 'Tag'), ['Cap', 'body']).parts.map((p) => p.name)).toEqual([
      'Cap 2',
      'Cap 2 2',
      'Tag',
    ])
  })
})

describe('labels', () => {
  const paper = { ...clay, sheen: 0, passes: 0, grain: null }
  const label = () => ({ kind: 'wrap', stock: { ...clay }, tooth: 'kraft' })
  it('are printed on something else, whatever they are on', () => {
    for (const form of [pack().form, { kind: 'carton', board: { outside: { ...clay } } }, { kind: 'vessel' }]) {
      const one = { form, panels: [label()] } as unknown as Pack
      expect(kindsOf(one, 'label-1')).toEqual(['opaque', 'metal', 'clear'])
      setMaterial(one, 'label-1', { ...paper, colour: '#ffffff' })
      expect(materialOf(one, 'label-1')).toMatchObject({ colour: '#ffffff' })
      if (one.form.kind === 'carton') expect(one.form.board.outside).toEqual(clay)
    }
  })
  it('have a tooth on plain paper only', () => {
    const one = label() as never as Parameters<typeof printOn>[0] & { tooth: string }
    printOn(one, paper)
    expect(one.tooth).toBe('kraft')
    printOn(one, { ...paper, grain: { pattern: 'laid' } } as never)
    expect(one.tooth).toBe('smooth')
  })
})
