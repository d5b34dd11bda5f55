import { describe, expect, it } from 'vitest'

import type { PropKind, ReadModel } from '@/api/client'
import { freeKey, inFull, propName } from './props'

describe('props', () => {
  it('are called by their kind, or by the file that was sent', () => {
    const known = [{ what: 'apple', title: 'Apple' }] as PropKind[]
    expect(propName({ kind: 'made', what: 'apple' } as never, known)).toBe('Apple')
    expect(propName({ kind: 'received', received: { file: 'old crate.glb' } } as never, known)).toBe('old crate')
    expect(propName(undefined, known)).toBe('a prop')
  })

  it('have keys of their own', () => {
    expect(freeKey('Old Crate!', {})).toBe('old-crate')
    expect(freeKey('apple', { apple: 1, 'apple-2': 1 })).toBe('apple-3')
    expect(freeKey('…', {})).toBe('prop')
  })

  it('go without the palette', () => {
    const oak = { kind: 'opaque', colour: '#aa8855' }
    const read = {
      entries: { Oak: oak },
      received: {
        parts: [
          { name: 'a', material: { kind: 'linked', entry: 'Oak' } },
          { name: 'b', material: oak },
        ],
      },
    } as unknown as ReadModel
    expect(inFull(read).parts.map((part) => part.material)).toEqual([oak, oak])
  })
})
