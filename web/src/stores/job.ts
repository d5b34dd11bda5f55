import { defineStore } from 'pinia'
import { computed, ref, shallowRef, watch } from 'vue'

import {
  answer,
  api,
  type Artwork,
  type JobDetail,
  type Order,
  type Pack,
  type Palette,
  type PhotoSet,
  type Picture,
  Refused,
  type Shape,
  type Shot,
  type StartingMaterials,
  wordsFor,
} from '@/api/client'
import { latest } from '@/composables/latest'
import type { LiveEvent } from '@/composables/live'
import { type Draft, draftOf, type Saved } from './documents'
import { takeNews } from './orders'

const at = (row_id: number) => ({ params: { path: { row_id } } })
const ofJob = (slug: string) => ({ params: { path: { slug } } })

/** Everything the five stations of one job share. */
export const useJob = defineStore('job', () => {
  const detail = shallowRef<JobDetail | null>(null)
  const pack = ref<Draft<Pack> | null>(null)
  const photoSet = ref<Draft<PhotoSet> | null>(null)
  const shot = ref<Draft<Shot> | null>(null)
  const palette = shallowRef<Palette>({ schema_version: 1, entries: {} })
  /** What materials begin as. */
  const materials = shallowRef<StartingMaterials | null>(null)
  const shape = shallowRef<Shape | null>(null)
  const shapeProblem = ref<{ message: string; place: string } | null>(null)
  const artwork = ref<Artwork[]>([])
  const orders = ref<Order[]>([])
  const pictures = ref<Picture[]>([])

  const slug = computed(() => detail.value?.slug ?? '')
  const shotId = computed(() => shot.value?.saved.id ?? 0)
  const drafts = computed(() => [pack.value, photoSet.value, shot.value].filter((d) => d !== null))

  async function open(name: string): Promise<void> {
    detail.value = null
    const found = await readJob(name)
    const [firstShot] = found.shots
    const itsPack = byKey(found.packs, firstShot?.document.hero)
    const itsSet = byKey(found.sets, firstShot?.document.photo_set)
    if (!firstShot || !itsPack || !itsSet) throw new Error(`The job “${found.name}” has no shot.`)
    pack.value = draftOf<Pack>(itsPack, {
      read: async (id) => pick((await readJob(name)).packs, id),
      save: (id, base_revision, document) =>
        savedPack(api.PUT('/api/packs/{row_id}', { ...at(id), body: { base_revision, document } })),
      undo: (id) => savedPack(api.POST('/api/packs/{row_id}/undo', at(id))),
      redo: (id) => savedPack(api.POST('/api/packs/{row_id}/redo', at(id))),
      restore: (id, number) => savedPack(api.POST('/api/packs/{row_id}/restore', { ...at(id), body: { number } })),
    })
    photoSet.value = draftOf<PhotoSet>(itsSet, {
      read: async (id) => pick((await readJob(name)).sets, id),
      save: (id, base_revision, document) =>
        answer(api.PUT('/api/sets/{row_id}', { ...at(id), body: { base_revision, document } })),
      undo: (id) => answer(api.POST('/api/sets/{row_id}/undo', at(id))),
      redo: (id) => answer(api.POST('/api/sets/{row_id}/redo', at(id))),
      restore: (id, number) => answer(api.POST('/api/sets/{row_id}/restore', { ...at(id), body: { number } })),
    })
    shot.value = draftOf<Shot>(firstShot, {
      read: async (id) => pick((await readJob(name)).shots, id),
      save: (id, base_revision, document) =>
        answer(api.PUT('/api/shots/{row_id}', { ...at(id), body: { base_revision, document } })),
      undo: (id) => answer(api.POST('/api/shots/{row_id}/undo', at(id))),
      redo: (id) => answer(api.POST('/api/shots/{row_id}/redo', at(id))),
      restore: (id, number) => answer(api.POST('/api/shots/{row_id}/restore', { ...at(id), body: { number } })),
    })
    palette.value = found.palette.document
    materials.value ??= await answer(api.GET('/api/materials'))
    await Promise.all([loadArtwork(name), loadOrders(name), loadPictures(name)])
    detail.value = found
  }

  // the client's types loosen pairs of numbers into lists
  const readJob = (name: string) => answer(api.GET('/api/jobs/{slug}', ofJob(name))) as unknown as Promise<JobDetail>

  async function loadArtwork(name = slug.value): Promise<void> {
    artwork.value = await answer(api.GET('/api/jobs/{slug}/artwork', ofJob(name)))
  }

  async function loadOrders(name = slug.value): Promise<void> {
    orders.value = await answer(api.GET('/api/jobs/{slug}/orders', ofJob(name)))
  }

  async function loadPictures(name = slug.value): Promise<void> {
    pictures.value = await answer(api.GET('/api/jobs/{slug}/pictures', ofJob(name)))
  }

  /** News from the live channel. */
  async function hear(event: LiveEvent): Promise<void> {
    if (event.type === 'order') {
      if (!takeNews(orders.value, event.order)) await loadOrders()
      if (event.order.state === 'done') await loadPictures()
    } else if (event.type === 'document') {
      const drafts = { pack: pack.value, set: photoSet.value, shot: shot.value, palette: null, colourway: null }
      const draft = drafts[event.kind]
      if (event.kind === 'palette') palette.value = (await readJob(slug.value)).palette.document
      else if (draft?.saved.id === event.id) await draft.hear(event.revision)
    }
  }

  /** Catch up with what was said while nobody could be heard. */
  async function catchUp(): Promise<void> {
    await Promise.all([...drafts.value.map((draft) => draft.hear()), loadArtwork(), loadOrders(), loadPictures()])
  }

  const reshape = latest(
    (body: { pack: Pack; palette: Palette }) =>
      answer(api.POST('/api/shape', { body })).then((found) => found as unknown as Shape),
    (result) => {
      shape.value = result
      shapeProblem.value = null
    },
    (error) => {
      const place = error instanceof Refused ? error.refusal.place : ''
      shapeProblem.value = { message: wordsFor(error), place }
    },
  )
  watch(
    () => [pack.value?.document, palette.value] as const,
    ([document, entries]) => document && reshape({ pack: document, palette: entries }),
  )

  async function close(): Promise<void> {
    await Promise.all(drafts.value.map((draft) => draft.flush()))
  }

  return {
    detail,
    pack,
    photoSet,
    shot,
    palette,
    materials,
    shape,
    shapeProblem,
    artwork,
    orders,
    pictures,
    slug,
    shotId,
    drafts,
    open,
    close,
    hear,
    catchUp,
    loadArtwork,
    loadOrders,
    loadPictures,
  }
})

const savedPack = (call: Parameters<typeof answer>[0]) => answer(call) as unknown as Promise<Saved<Pack>>

/** The row of a key; without one, the job's first. */
function byKey<T extends { key: string }>(rows: T[], key: string | null | undefined): T | undefined {
  return key ? rows.find((row) => row.key === key) : rows[0]
}

function pick<T extends { id: number }>(rows: T[], id: number): T {
  const row = rows.find((r) => r.id === id)
  if (!row) throw new Error('That document is no longer there.')
  return row
}
