import { describe, expect, it } from 'vitest'

import { beyond, unkept } from './studioColours'

const quince = { name: 'Quince', hex: '#D9A514', spot: '' }
const damson = { name: 'Damson', hex: '#6f1d33', spot: '' }
const kept = (one: typeof quince, number: number) => ({ ...one, number, lab: [0, 0, 0] as [number, number, number] })

describe('colours of the studio', () => {
  it('are shown beside those of the brand, each once', () => {
    const studio = [kept({ ...quince, hex: '#d9a514' }, 1), kept({ ...damson, hex: '#701d33' }, 2)]
    expect(beyond([quince, damson], studio).map((one) => one.number)).toEqual([2])
    expect(unkept([quince, damson], studio)).toEqual([damson])
    expect(unkept([], studio)).toEqual([])
  })
})
