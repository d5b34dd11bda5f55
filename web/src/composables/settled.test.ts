import { ref } from 'vue'
import { describe, expect, it } from 'vitest'

import { settled } from './settled'

describe('settled', () => {
  it('stays the same object until one of its values is another', () => {
    const [name, colour] = [ref('jar'), ref('red')]
    const record = settled(() => ({ short: name.value.slice(0, 3), colour: colour.value }))
    const first = record.value
    name.value = 'jar of balm'
    expect(record.value).toBe(first)
    colour.value = 'green'
    expect(record.value).not.toBe(first)
    expect(record.value.colour).toBe('green')
  })

  it('sees what comes and goes', () => {
    const keys = ref(['a'])
    const record = settled(() => Object.fromEntries(keys.value.map((key) => [key, 1])))
    const first = record.value
    keys.value = ['a', 'b']
    expect(Object.keys(record.value)).toEqual(['a', 'b'])
    keys.value = ['b']
    expect(Object.keys(record.value)).toEqual(['b'])
    expect(record.value).not.toBe(first)
  })
})
