import { ref } from 'vue'

import { answer, api, type BrandColour, type StudioColour } from '@/api/client'

const all = ref<StudioColour[]>([])
let asked: Promise<void> | null = null

/** The colours that every job has at hand. */
export function useStudioColours() {
  asked ??= answer(api.GET('/api/studio-colours')).then(
    (found) => took(found),
    () => void (asked = null),
  )
  return { all, keep, takeAway }
}

const took = (found: unknown) => void (all.value = found as StudioColour[])

/** Keep colours for every job; of the same name, the later one counts. */
async function keep(colours: readonly BrandColour[]): Promise<void> {
  const body = colours.map(({ name, hex, spot }) => ({ name, hex, spot: spot ?? '' }))
  took(await answer(api.POST('/api/studio-colours', { body })))
}

async function takeAway(one: StudioColour): Promise<void> {
  const path = { number: one.number }
  took(await answer(api.DELETE('/api/studio-colours/{number}', { params: { path } })))
}

/** Those of the studio that a brand has not got to the last letter. */
export function beyond(brand: readonly BrandColour[], studio: readonly StudioColour[]): StudioColour[] {
  return studio.filter((one) => !brand.some((own) => same(own, one)))
}

/** Those of a brand that the studio has not got to the last letter. */
export function unkept(brand: readonly BrandColour[], studio: readonly StudioColour[]): BrandColour[] {
  return brand.filter((one) => !studio.some((kept) => same(one, kept)))
}

const same = (one: BrandColour, other: BrandColour) =>
  one.name === other.name && one.hex.toLowerCase() === other.hex.toLowerCase() && (one.spot ?? '') === other.spot
