import { describe, expect, it } from 'vitest'

import type { AnyShape } from '@/api/client'
import { panelAt, spotOn } from './panels'

const square = (left: number, right: number) => [
  [left, 0],
  [right, 0],
  [right, 50],
  [left, 50],
]
const blank = (name: string) => ({
  name,
  size: [100, 50],
  panels: [
    { name: 'front', outline: square(0, 60) },
    { name: 'side', outline: square(60, 90) },
  ],
})
const carton = (...names: string[]) => ({ kind: 'carton', blanks: names.map(blank) }) as unknown as AnyShape

describe('the panel under the hand', () => {
  it('is told by its place on the blank', () => {
    expect(panelAt(carton('carton'), 'carton', [0.7, 0.5])).toEqual({ blank: 0, name: 'side', key: 'side' })
    expect(panelAt(carton('base', 'lid'), 'lid', [0.3, 0.5])).toEqual({ blank: 1, name: 'front', key: 'lid front' })
  })
  it('has a middle, where its grain is shown', () => {
    const box = carton('base', 'lid')
    expect(spotOn(box, 'lid', 'side')).toEqual({ part: 'lid', panel: 1, on: [0.75, 0.5] })
    expect(spotOn(box)).toEqual({ part: 'base', panel: 0, on: [0.3, 0.5] })
    expect([spotOn(box, 'lid', 'roof'), spotOn(null)]).toEqual([undefined, undefined])
  })
  it('is none beside all panels, on what is no blank, or on nothing that is printed', () => {
    expect(panelAt(carton('carton'), 'carton', [0.95, 0.5])).toBeNull()
    expect(panelAt(carton('carton'), 'label-1', [0.5, 0.5])).toBeNull()
    expect(panelAt(carton('carton'), 'carton', null)).toBeNull()
    expect(panelAt(null, 'carton', [0.5, 0.5])).toBeNull()
  })
})
