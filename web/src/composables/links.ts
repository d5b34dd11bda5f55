import type { Pack } from '@/api/client'

/** A part that is made of an entry of the palette, and the pack it is of. */
export interface Link {
  pack: string
  part: string
}

/** Everything of some packs that is made of an entry of the palette, in their order. */
export function linksTo(entry: string, packs: readonly { name: string; document: Pack }[]): Link[] {
  return packs.flatMap(({ name, document }) => {
    const parts = new Set<string>()
    walk(document, [], entry, (path) => parts.add(partOf(document, path)))
    return [...parts].map((part) => ({ pack: name, part }))
  })
}

/** What links say beside the one they are looked at from: other parts of the same pack by themselves. */
export function alsoOn(links: readonly Link[], pack: string): string {
  const own = links.filter((one) => one.pack === pack).map((one) => one.part)
  const others = links.filter((one) => one.pack !== pack).map((one) => `${one.pack}: ${one.part}`)
  return [...own, ...others].join(', ')
}

function walk(value: unknown, path: string[], entry: string, found: (path: string[]) => void): void {
  if (typeof value !== 'object' || value === null) return
  if (!Array.isArray(value) && 'kind' in value && value.kind === 'linked') {
    if ('entry' in value && value.entry === entry) found(path)
    return
  }
  for (const [key, inner] of Object.entries(value)) walk(inner, [...path, key], entry, found)
}

/** What a designer calls the part of which something lies at a place of the document. */
function partOf(pack: Pack, [first, second, third]: string[]): string {
  if (first === 'panels') return `“${pack.panels?.[Number(second)]?.name ?? 'a label'}”`
  if (first === 'copies') return `a copy of the ${pack.copies?.[Number(second)]?.of ?? 'part'}`
  if (first === 'added') return 'an added model'
  const { form } = pack
  if (second === 'parts' && form.kind === 'received') return form.parts[Number(third)]?.name ?? 'a part'
  if (second === 'runs' || second === 'prints') return `the print on the ${third}`
  if (second === 'faces') return `the ${third}`
  if (second === 'closure' && third && third !== 'material') return third
  return second ?? 'a part'
}
