import { ref } from 'vue'

import { answer, api, type Known, type Material, send } from '@/api/client'

const LATELY = 'giftwrap-materials'
const FAVOURITES = 'giftwrap-favourites'
const KEPT = 8

const all = ref<Known[]>([])
let asked: Promise<void> | null = null

/** The materials that there are to choose from, and which were chosen last on this machine. */
export function useMaterialLibrary() {
  asked ??= answer(api.GET('/api/material-library')).then(
    (found) => void (all.value = found),
    () => void (asked = null),
  )
  return { all, lately, chose, favourites, favour, keepOwn, takeAway, bring }
}

/** The studio's own come first; what is not theirs stays. */
function took(own: Known[]): void {
  all.value = [...own, ...all.value.filter((one) => !one.own)]
}

/** Save a material for every job of the studio. */
async function keepOwn(name: string, material: Material): Promise<void> {
  took(await answer(api.POST('/api/own-materials', { body: { name, words: '', material } })))
}

/** Take one of the studio's own away. What is made of it keeps its copy. */
async function takeAway(one: Known): Promise<void> {
  const number = Number(one.key.replace('own-', ''))
  took(await answer(api.DELETE('/api/own-materials/{number}', { params: { path: { number } } })))
}

/** Save all materials of a file. */
async function bring(file: File): Promise<void> {
  const form = new FormData()
  form.append('file', file)
  const response = await send('/api/own-materials-file', { method: 'POST', body: form })
  took((await response.json()) as Known[])
}

/** The material of the library that one is exactly, if it is one. */
export function nameOf(material: Material, known: readonly Known[]): Known | null {
  return known.find((one) => includes(material, one.material)) ?? null
}

/** Whether something has all that another has; what neither has, or has as nothing, is the same. */
function includes(whole: unknown, part: unknown): boolean {
  if (typeof part !== 'object' || part === null) return (whole ?? null) === part
  if (typeof whole !== 'object' || whole === null) return false
  const fields = whole as Record<string, unknown>
  return Object.entries(part).every(([field, value]) => includes(fields[field], value))
}

/** Keys of what was chosen last, the newest first. */
export const lately = (): string[] => keptKeys(LATELY).slice(0, KEPT)
const chose = (key: string) => keepKeys(LATELY, [key, ...lately().filter((one) => one !== key)].slice(0, KEPT))

/** Keys of what somebody on this machine likes best, in the order in which they came to. */
export const favourites = (): string[] => keptKeys(FAVOURITES)
/** Make one a favourite, or none any more. */
function favour(key: string): void {
  const keys = favourites()
  keepKeys(FAVOURITES, keys.includes(key) ? keys.filter((one) => one !== key) : [...keys, key])
}

function keptKeys(where: string): string[] {
  try {
    const kept = JSON.parse(localStorage.getItem(where) ?? '[]') as unknown
    return Array.isArray(kept) ? kept.filter((key) => typeof key === 'string') : []
  } catch {
    return []
  }
}

function keepKeys(where: string, keys: string[]): void {
  try {
    localStorage.setItem(where, JSON.stringify(keys))
  } catch {
    // what was chosen last is a convenience: without room for it there is none
  }
}
