import { describe, expect, it } from 'vitest'

import type { Pack } from '@/api/client'
import { alsoOn, linksTo } from './links'

const black = { kind: 'linked', entry: 'Black' }
const bottle = {
  form: {
    kind: 'vessel',
    body: { material: { kind: 'clear' } },
    closure: { kind: 'dropper', material: black, bulb: black },
    contents: { material: { kind: 'linked', entry: 'Quince' } },
  },
  panels: [{ name: 'Front', stock: { kind: 'opaque' }, run: [{ kind: 'ink', material: black }, { material: black }] }],
} as unknown as Pack
const box = {
  form: { kind: 'carton', board: { outside: black, inside: { kind: 'opaque' } }, runs: { lid: [{ material: black }] } },
  panels: [],
  copies: [{ of: 'lid', material: black }],
} as unknown as Pack
const packs = [
  { name: 'Cordial', document: bottle },
  { name: 'Gift box', document: box },
]

describe('what is linked', () => {
  it('is found wherever a pack has it, each part once', () => {
    expect(linksTo('Black', packs)).toEqual([
      { pack: 'Cordial', part: 'closure' },
      { pack: 'Cordial', part: 'bulb' },
      { pack: 'Cordial', part: '“Front”' },
      { pack: 'Gift box', part: 'board' },
      { pack: 'Gift box', part: 'the print on the lid' },
      { pack: 'Gift box', part: 'a copy of the lid' },
    ])
    expect(linksTo('Quince', packs)).toEqual([{ pack: 'Cordial', part: 'contents' }])
    expect(linksTo('Nothing', packs)).toEqual([])
  })
  it('is said by the part on the same pack, and by the pack too on others', () => {
    const links = linksTo('Black', packs).slice(2, 4)
    expect(alsoOn(links, 'Cordial')).toBe('“Front”, Gift box: board')
  })
})
