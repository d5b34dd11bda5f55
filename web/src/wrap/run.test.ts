import { describe, expect, it } from 'vitest'

import type { Panel, StartingRun } from '@/api/client'
import { added, moved, shaped, startFrom, STOCKS, takeStock, told, without } from './run'

const panel = () => ({ stock: STOCKS.opaque, tooth: 'felt', run: [], placements: [{ areas: {} }] }) as unknown as Panel
const names = (one: Panel) => one.run!.map((layer) => layer.name)

describe('the run of a panel', () => {
  it('has white first and everything else last, each under a name of its own', () => {
    const one = panel()
    for (const kind of ['foil', 'white', 'foil', 'emboss'] as const) added(one, kind)
    expect(names(one)).toEqual(['White', 'Ink', 'Foil', 'Foil 2', 'Emboss'])
    moved(one, 2, 1)
    expect(names(one)).toEqual(['White', 'Ink', 'Foil 2', 'Foil', 'Emboss'])
  })
  it('cuts last, all of it out at first', () => {
    const one = panel()
    for (const kind of ['cut', 'cut'] as const) added(one, kind)
    expect(names(one)).toEqual(['Ink', 'Die-cut', 'Die-cut 2'])
    expect(one.run![1]).toMatchObject({ slit: null, covers: 'placed' })
    shaped(one, 0, one.run![1]!)
    expect(one.placements[0]).toEqual({ areas: { 'Die-cut': 'shape' }, printed: false })
  })
  it('forgets where a layer was that is left out', () => {
    const one = panel()
    added(one, 'foil')
    added(one, 'emboss')
    one.placements[0]!.areas = { Foil: 'dark', Emboss: 'shape' }
    without(one, 1)
    expect(one.placements[0]!.areas).toEqual({ Emboss: 'shape' })
  })
  it('is where an artwork is, which is not printed in ink then, but under varnish', () => {
    const one = panel()
    added(one, 'varnish')
    added(one, 'foil')
    shaped(one, 0, one.run![1]!)
    expect(one.placements[0]!.printed).toBeUndefined()
    shaped(one, 0, one.run![2]!)
    expect(one.placements[0]).toEqual({ areas: { Varnish: 'shape', Foil: 'shape' }, printed: false })
  })
  it('starts by name with its stock, and keeps what artwork says of layers that are still there', () => {
    const one = panel()
    one.placements[0]!.areas = { Foil: 'dark', Varnish: 'shape' }
    const layers = [{ kind: 'foil', name: 'Foil', covers: 'placed' }]
    const start = { run: layers, stock: STOCKS.clear, thickness: 0.06, tooth: 'smooth' } as unknown as StartingRun
    startFrom(one, start, true)
    expect([names(one), one.stock.kind, one.stock_thickness, one.tooth]).toEqual([['Foil'], 'clear', 0.06, 'smooth'])
    expect(one.placements[0]!.areas).toEqual({ Foil: 'dark' })
    const blank = panel()
    startFrom(blank, start, false)
    expect(blank.stock.kind).toBe('opaque')
  })
  it('is told by artwork where its layers are, but ink in own colours and what is all over', () => {
    const one = panel()
    for (const kind of ['white', 'ink', 'varnish'] as const) added(one, kind)
    Object.assign(one.run!.at(-1)!, { covers: 'whole' })
    expect(told(one).map((layer) => layer.name)).toEqual(['Second ink'])
  })
  it('has no tooth on film', () => {
    const one = panel()
    takeStock(one, 'metal')
    expect([one.stock.kind, one.tooth]).toEqual(['metal', 'smooth'])
  })
})
