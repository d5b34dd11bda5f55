import { ref } from 'vue'

import { answer, api, type Material, type Prop, type PropKind, type ReadModel } from '@/api/client'

/** Stands before a prop's key where packs have keys as well. */
export const PROP = 'prop:'

const kinds = ref<PropKind[]>([])
let asked: Promise<void> | null = null

/** The kinds of props that there are. */
export function usePropKinds() {
  asked ??= answer(api.GET('/api/props')).then(
    (found) => void (kinds.value = found),
    () => void (asked = null),
  )
  return kinds
}

/** Where the picture of a kind is. */
export const pictureOf = (what: string) => `/api/props/${what}.webp`

/** What a prop is called. */
export function propName(prop: Prop | undefined, known: readonly PropKind[]): string {
  if (!prop) return 'a prop'
  if (prop.kind === 'received') return (prop.received.file ?? '').replace(/\.[^.]*$/, '') || 'A model'
  return known.find((one) => one.what === prop.what)?.title ?? prop.what
}

/** A model with what its parts are made of said in full: a prop goes without the job's palette. */
export function inFull(read: ReadModel): ReadModel['received'] {
  const entries = read.entries as Record<string, Material>
  const parts = read.received.parts.map((part) => {
    const made = part.material as Material | { kind: 'linked'; entry: string } | undefined
    return made?.kind === 'linked' && entries[made.entry] ? { ...part, material: entries[made.entry]! } : part
  })
  return { ...read.received, parts: parts as ReadModel['received']['parts'] }
}

/** A key that is not taken. */
export function freeKey(wanted: string, taken: Record<string, unknown>): string {
  const base =
    wanted
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 50) || 'prop'
  let key = base
  for (let number = 2; key in taken; number++) key = `${base}-${number}`
  return key
}
