import { describe, expect, it } from 'vitest'

import type { Artwork, Pack, Panel } from '@/api/client'
import { aspectOf, centred, filling, freeName, laid, sizeNote, takeOff } from './laying'

const panel = { name: 'Label', width: 100, height: 50 } as Panel
const artwork = (width: number | null, aspect = 2) => ({ sha256: 'a', width, aspect }) as Artwork
const pack = (names: string[], parts: object = {}) =>
  ({ panels: names.map((name) => ({ ...panel, name })), parts }) as unknown as Pack

describe('what is said of a size', () => {
  it('is nothing where artwork is as large as it states, or states nothing', () => {
    const file = { filename: 'label.pdf', width: 150, height: 92 } as Artwork
    expect(sizeNote(file, { width: 150 })).toBe('')
    expect(sizeNote({ ...file, width: null }, { width: 40 })).toBe('')
    expect(sizeNote(file, { width: 43.5 })).toBe('label.pdf states 150 × 92 mm and was placed 43.5 mm wide, to fit.')
  })
})

describe('artwork laid on a label', () => {
  it('has the size that its file states, in the middle', () => {
    expect(laid(artwork(40), panel)).toMatchObject({ artwork: 'a', x: 30, y: 15, width: 40 })
  })
  it('is as large as the label takes when its file states none, or too much', () => {
    for (const width of [null, 103, 5000])
      expect(laid(artwork(width), panel)).toMatchObject({ artwork: 'a', x: 0, y: 0, width: 100 })
    expect(laid(artwork(null, 1), panel)).toMatchObject({ artwork: 'a', x: 25, y: 0, width: 50 })
  })
  it('may state a bleed', () => {
    expect(laid(artwork(102), panel)).toMatchObject({ artwork: 'a', x: -1, y: -0.5, width: 102 })
  })
  it('comes back on a template in its place, without the template', () => {
    const page = { ...artwork(126), height: 76, aspect: 126 / 76, layers: ['Art', 'Cut', 'Safe'] } as Artwork
    expect(laid(page, panel)).toMatchObject({ x: -13, y: -13, width: 126, without: ['Cut', 'Safe'] })
    expect(laid({ ...page, height: 90, aspect: 126 / 90 } as Artwork, panel)).toMatchObject({ y: 0 })
  })
  it('lies where it was dropped, unless it fills the label', () => {
    expect(laid(artwork(40), panel, { x: 30, y: 20 })).toMatchObject({ artwork: 'a', x: 10, y: 10, width: 40 })
    expect(laid(artwork(90), panel, { x: 30, y: 20 })).toMatchObject({ x: 5, y: 2.5 })
  })
  it('has the proportions of what is left of it', () => {
    expect(aspectOf({ crop: null }, { aspect: 2 })).toBe(2)
    expect(aspectOf({ crop: { left: 0.25, right: 0.25, top: 0, bottom: 0.5 } }, { aspect: 2 })).toBe(2)
    const pages = [
      [60, 30],
      [20, 40],
    ]
    expect(aspectOf({ crop: null, page: 2 }, { aspect: 2, pages })).toBe(0.5)
    expect(aspectOf({ crop: { left: 0.5, right: 0, top: 0, bottom: 0 } }, undefined)).toBe(0.5)
  })
  it('is centred, and made to cover the label whichever way it is shaped', () => {
    expect(centred({ width: 30 }, panel, 1.5)).toEqual({ x: 35, y: 15 })
    expect(filling(panel, 1)).toEqual({ width: 100, x: 0, y: -25 })
    expect(filling(panel, 4)).toEqual({ width: 200, x: -50, y: 0 })
  })
})

describe('labels of a pack', () => {
  it('that stay keep what is said of them when one before them is taken off', () => {
    const its = pack(['Front', 'Neck', 'Back'], {
      body: { locked: true },
      'label-1': { hidden: true },
      'label-2': { locked: true },
      'label-3': { hidden: true, locked: true },
    })
    takeOff(its, 1)
    expect(its.panels!.map((one) => one.name)).toEqual(['Front', 'Back'])
    expect(its.parts).toEqual({
      body: { locked: true },
      'label-1': { hidden: true },
      'label-2': { hidden: true, locked: true },
    })
  })
  it('are told apart by their names', () => {
    expect(freeName('Label', pack([]))).toBe('Label')
    expect(freeName('Label', pack(['Label', 'Label 2', 'Back']))).toBe('Label 3')
  })
})
