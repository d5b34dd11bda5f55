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
  type Removed,
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
  const packs = shallowRef<Draft<Pack>[]>([])
  const removed = shallowRef<Removed[]>([])
  /** Key of the pack that is open at Form and Wrap. */
  const openKey = ref('')
  /** Whether the pack being looked at is the shot's, as at Set and Shoot, or the open one. */
  const atSet = ref(false)
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
  const hero = computed(() => byKey(packs.value, shot.value?.document.hero, (d) => d.saved.key) ?? null)
  const openPack = computed(() => packs.value.find((d) => d.saved.key === openKey.value) ?? hero.value)
  /** The pack that the station looks at. */
  const pack = computed(() => (atSet.value ? hero.value : openPack.value))
  const drafts = computed(() => [...packs.value, photoSet.value, shot.value].filter((d) => d !== null))

  async function open(name: string): Promise<void> {
    detail.value = null
    const found = await readJob(name)
    const [firstShot] = found.shots
    const itsSet = byKey(found.sets, firstShot?.document.photo_set, (row) => row.key)
    if (!firstShot || !itsSet) throw new Error(`The job “${found.name}” has no shot.`)
    packs.value = found.packs.map((row) => packDraft(name, row))
    removed.value = found.removed
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

  const packDraft = (name: string, row: Saved<Pack>) =>
    draftOf<Pack>(row, {
      read: async (id) => pick((await readJob(name)).packs, id),
      save: (id, base_revision, document) =>
        savedPack(api.PUT('/api/packs/{row_id}', { ...at(id), body: { base_revision, document } })),
      undo: (id) => savedPack(api.POST('/api/packs/{row_id}/undo', at(id))),
      redo: (id) => savedPack(api.POST('/api/packs/{row_id}/redo', at(id))),
      restore: (id, number) => savedPack(api.POST('/api/packs/{row_id}/restore', { ...at(id), body: { number } })),
    })

  /** Take over which packs there are and what they are called; those that are open stay as they are. */
  async function catchUpWithPacks(): Promise<void> {
    const found = await readJob(slug.value)
    const known = new Map(packs.value.map((draft) => [draft.saved.id, draft]))
    packs.value = found.packs.map((row) => {
      const draft = known.get(row.id)
      if (draft) draft.saved = { ...draft.saved, name: row.name }
      return draft ?? packDraft(slug.value, row)
    })
    removed.value = found.removed
  }

  /** Add a pack, from one to start from or as a copy; returns its key. */
  async function addPack(body: { start?: string; copy_of?: number }): Promise<string> {
    await Promise.all(drafts.value.map((draft) => draft.flush()))
    const made = await answer(api.POST('/api/jobs/{slug}/packs', { ...ofJob(slug.value), body }))
    await catchUpWithPacks()
    return made.key
  }

  async function renamePack(row_id: number, name: string): Promise<void> {
    const params = { path: { rows: 'packs' as const, row_id } }
    await answer(api.PUT('/api/{rows}/{row_id}/name', { params, body: { name } }))
    await catchUpWithPacks()
  }

  /** Say what the open pack was started from: it is called after that until somebody names it. */
  async function startedFrom(start: string): Promise<void> {
    const params = { path: { row_id: pack.value!.saved.id } }
    await answer(api.PUT('/api/packs/{row_id}/started-from', { params, body: { start } }))
    await catchUpWithPacks()
  }

  async function removePack(row_id: number): Promise<void> {
    await packs.value.find((draft) => draft.saved.id === row_id)?.flush()
    await answer(api.POST('/api/{rows}/{row_id}/remove', { params: { path: { rows: 'packs', row_id } } }))
    await catchUpWithPacks()
  }

  async function fetchPackBack(row_id: number): Promise<void> {
    await answer(api.POST('/api/{rows}/{row_id}/fetch-back', { params: { path: { rows: 'packs', row_id } } }))
    await catchUpWithPacks()
  }

  /** Put a pack one place nearer to the first, or to the last. */
  async function shiftPack(row_id: number, by: -1 | 1): Promise<void> {
    const keys = packs.value.map((draft) => draft.saved.key)
    const from = packs.value.findIndex((draft) => draft.saved.id === row_id)
    const [key] = keys.splice(from, 1)
    keys.splice(from + by, 0, key!)
    const params = { path: { slug: slug.value, rows: 'packs' as const } }
    await answer(api.PUT('/api/jobs/{slug}/{rows}/order', { params, body: { keys } }))
    await catchUpWithPacks()
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
    } else if (event.type === 'rows') {
      await catchUpWithPacks()
    } else if (event.type === 'document') {
      const its = { pack: packs.value, set: [photoSet.value], shot: [shot.value], palette: [], colourway: [] }[
        event.kind
      ]
      const draft = its.find((d) => d?.saved.id === event.id)
      if (event.kind === 'palette') palette.value = (await readJob(slug.value)).palette.document
      else await draft?.hear(event.revision)
    }
  }

  /** Catch up with what was said while nobody could be heard. */
  async function catchUp(): Promise<void> {
    await Promise.all([
      ...drafts.value.map((draft) => draft.hear()),
      catchUpWithPacks(),
      loadArtwork(),
      loadOrders(),
      loadPictures(),
    ])
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
    packs,
    removed,
    openKey,
    atSet,
    hero,
    pack,
    addPack,
    renamePack,
    startedFrom,
    removePack,
    fetchPackBack,
    shiftPack,
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
function byKey<T>(rows: T[], key: string | null | undefined, keyOf: (row: T) => string): T | undefined {
  return key ? rows.find((row) => keyOf(row) === key) : rows[0]
}

function pick<T extends { id: number }>(rows: T[], id: number): T {
  const row = rows.find((r) => r.id === id)
  if (!row) throw new Error('That document is no longer there.')
  return row
}
