import { describe, expect, it } from 'vitest'

import type { Material, Pack } from '@/api/client'
import type { Offer } from '@/composables/materialInHand'
import { answerTo, madeAlike, takeOffer } from './offers'

const paint = { kind: 'opaque', colour: '#223344', gloss: 0.4 }
const gold = { kind: 'metal', metal: 'gold', tint: '#ffffff', gloss: 0.5 } as unknown as Material
const PARTS = ['body', 'contents', 'bulb', 'pipette', 'closure']
const dropper = () =>
  ({
    form: {
      kind: 'vessel',
      body: { material: { kind: 'clear' } },
      contents: { material: { kind: 'clear', depth: 3 } },
      closure: { kind: 'dropper', material: paint, bulb: { ...paint }, pipette: { kind: 'clear' } },
    },
    parts: {},
  }) as unknown as Pack
const offer = (material: Material, alike = false): Offer => ({ material, x: 0, y: 0, alike, says: '' })

describe('a material that is held over a part', () => {
  it('says the part, and what else is alike', () => {
    const one = offer(gold)
    expect(answerTo(one, dropper(), PARTS, 'closure')).toEqual(['closure'])
    expect(one.says).toBe('cap · Shift: all that are alike')
    expect(madeAlike(dropper(), PARTS, 'bulb')).toEqual(['bulb', 'closure'])
  })
  it('says why not', () => {
    const pack = dropper()
    for (const [part, words] of [
      ['pipette', 'cannot be metal'],
      ['contents', 'cannot be metal'],
    ] as const) {
      const one = offer(gold)
      expect(answerTo(one, pack, PARTS, part)).toBeNull()
      expect(one.says).toContain(words)
    }
    pack.parts = { body: { title: 'Bottle', hidden: false, locked: true, group: '' } }
    const held = offer(gold)
    expect(answerTo(held, pack, PARTS, 'body')).toBeNull()
    expect(held.says).toBe('Bottle is locked')
  })
  it('goes onto a panel of a carton, or onto all of its board', () => {
    const board = { outside: { ...paint }, inside: { ...paint } }
    const pack = { form: { kind: 'carton', board }, parts: {} } as unknown as Pack
    const white = { ...paint, colour: '#ffffff' } as unknown as Material
    const one = offer(white)
    const chosen = answerTo(one, pack, ['carton'], 'face front')!
    expect([chosen, one.says]).toEqual([['face front'], 'front · Shift: all that are alike'])
    takeOffer(one, pack, 'face front', chosen, null, (change) => change(pack))
    const form = pack.form as unknown as { faces: Record<string, unknown>; board: { outside: unknown } }
    expect([form.faces, form.board.outside]).toEqual([{ front: white }, paint])
    const all = offer(white, true)
    takeOffer(all, pack, 'face back', answerTo(all, pack, ['carton'], 'face back')!, null, (change) => change(pack))
    expect([all.says, form.board.outside]).toEqual(['board', white])
    expect(madeAlike(pack, ['carton'], 'face front')).toEqual(['board', 'face front'])
    const gilt = offer(gold)
    expect(answerTo(gilt, pack, ['carton'], 'face front')).toBeNull()
    expect(gilt.says).toBe('front cannot be metal')
  })
  it('makes all that are alike of it once it is let go', () => {
    const pack = dropper()
    const one = offer(gold, true)
    takeOffer(one, pack, 'bulb', answerTo(one, pack, PARTS, 'bulb')!, null, (change) => change(pack))
    const closure = (pack.form as unknown as { closure: Record<string, unknown> }).closure
    expect([closure.material, closure.bulb, closure.pipette]).toEqual([gold, gold, { kind: 'clear' }])
  })
})
