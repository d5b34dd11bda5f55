import { useDebounceFn } from '@vueuse/core'
import { defineStore } from 'pinia'
import { computed, shallowRef } from 'vue'

import { answer, api, type Thumbnail } from '@/api/client'

/** Saves come in twos and threes: one look at what they made stale is enough. */
const REST_MS = 300

/** A picture of a shot in a colourway, as it was when it was last made. */
export interface Small {
  address: string
  fresh: boolean
}

const cell = (shot: string, colourway: string) => `${shot}/${colourway}`

/** The kept thumbnails of a job's shots in its colourways. */
export const useThumbnails = defineStore('thumbnails', () => {
  const all = shallowRef<Thumbnail[]>([])
  const known = computed(() => new Map(all.value.map((one) => [cell(one.shot, one.colourway), one])))
  let slug = ''

  async function load(job = slug): Promise<void> {
    slug = job
    if (slug) all.value = await answer(api.GET('/api/jobs/{slug}/thumbnails', { params: { path: { slug } } }))
  }
  /** Something was saved: some of them are stale now. */
  const documentsChanged = useDebounceFn(() => load().catch(() => undefined), REST_MS)

  function hear(news: Thumbnail): void {
    const is = (one: Thumbnail) => one.shot === news.shot && one.colourway === news.colourway
    all.value = all.value.map((one) => (is(one) ? news : one))
  }

  function of(shot: { id: number; key: string }, colourway: string): Small | null {
    const one = known.value.get(cell(shot.key, colourway))
    if (!one?.at) return null
    const address = `/api/shots/${shot.id}/thumbnail.jpg?colourway=${colourway}&at=${one.at}`
    return { address, fresh: one.fresh }
  }
  /** Why there can be none. */
  const problem = (shot: string, colourway: string): string => known.value.get(cell(shot, colourway))?.problem ?? ''

  return { load, documentsChanged, hear, of, problem }
})
