import { ref } from 'vue'

import { answer, api, type Known, type Material } from '@/api/client'

const LATELY = 'giftwrap-materials'
const KEPT = 8

const all = ref<Known[]>([])
let asked: Promise<void> | null = null

/** The materials that there are to choose from, and which were chosen last on this machine. */
export function useMaterialLibrary() {
  asked ??= answer(api.GET('/api/material-library')).then(
    (found) => void (all.value = found),
    () => void (asked = null),
  )
  return { all, lately, chose }
}

/** The material of the library that one is exactly, if it is one. */
export function nameOf(material: Material, known: readonly Known[]): Known | null {
  const same = (one: object) => {
    const [a, b] = [one as Record<string, unknown>, material as unknown as Record<string, unknown>]
    return Object.keys(a).every((field) => a[field] === b[field])
  }
  return known.find((one) => same(one.material)) ?? null
}

/** Keys of what was chosen last, the newest first. */
export function lately(): string[] {
  try {
    const kept = JSON.parse(localStorage.getItem(LATELY) ?? '[]') as unknown
    return Array.isArray(kept) ? kept.filter((key) => typeof key === 'string').slice(0, KEPT) : []
  } catch {
    return []
  }
}

function chose(key: string): void {
  const keys = [key, ...lately().filter((one) => one !== key)].slice(0, KEPT)
  try {
    localStorage.setItem(LATELY, JSON.stringify(keys))
  } catch {
    // what was chosen last is a convenience: without room for it there is none
  }
}
