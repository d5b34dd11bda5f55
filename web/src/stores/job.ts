import { defineStore } from 'pinia'
import { computed, ref, shallowRef, type ShallowRef, watch } from 'vue'

import {
  answer,
  api,
  AS_IT_IS,
  type Artwork,
  type Colourway,
  type JobDetail,
  type Order,
  type Pack,
  type Palette,
  type PhotoSet,
  type Picture,
  type Received,
  Refused,
  type Removed,
  type AnyShape,
  type Shot,
  type StartingMaterials,
  wordsFor,
} from '@/api/client'
import { latest } from '@/composables/latest'
import { settled } from '@/composables/settled'
import type { LiveEvent } from '@/composables/live'
import { type Draft, type Saved } from './documents'
import { takeNews } from './orders'
import { byKey, draftOfRow, type Rows } from './rows'
import { useThumbnails } from './thumbnails'

const ofJob = (slug: string) => ({ params: { path: { slug } } })
const EMPTY_PALETTE: Palette = { schema_version: 1, entries: {}, colours: [], versions: {} }

/** Everything the five stations of one job share. */
export const useJob = defineStore('job', () => {
  const detail = shallowRef<JobDetail | null>(null)
  const packs = shallowRef<Draft<Pack>[]>([])
  const sets = shallowRef<Draft<PhotoSet>[]>([])
  const shots = shallowRef<Draft<Shot>[]>([])
  const colourways = shallowRef<Draft<Colourway>[]>([])
  const paletteDraft = shallowRef<Draft<Palette> | null>(null)
  const removed = shallowRef<Removed[]>([])
  /** Keys of what is open: the pack at Form and Wrap, the shot and its colourway from Set on. */
  const openKey = ref('')
  const shotKey = ref('')
  const colourwayKey = ref('')
  /** Whether the pack being looked at is the shot's, as at Set and Shoot, or the open one. */
  const atSet = ref(false)
  /** What materials begin as. */
  const materials = shallowRef<StartingMaterials | null>(null)
  const shape = shallowRef<AnyShape | null>(null)
  const shapeProblem = ref<{ message: string; place: string } | null>(null)
  const artwork = ref<Artwork[]>([])
  const orders = ref<Order[]>([])
  const pictures = ref<Picture[]>([])
  const thumbnails = useThumbnails()

  const slug = computed(() => detail.value?.slug ?? '')
  const shot = computed(() => byKey(shots.value, shotKey.value) ?? shots.value[0] ?? null)
  const photoSet = computed(() => byKey(sets.value, shot.value?.document.photo_set) ?? sets.value[0] ?? null)
  const colourway = computed(() => (colourwayKey.value ? byKey(colourways.value, colourwayKey.value) : null) ?? null)
  const palette = computed(() => paletteDraft.value?.document ?? EMPTY_PALETTE)
  const shotId = computed(() => shot.value?.saved.id ?? 0)
  const hero = computed(() => byKey(packs.value, shot.value?.document.hero) ?? null)
  const openPack = computed(() => packs.value.find((d) => d.saved.key === openKey.value) ?? hero.value)
  /** The pack that the station looks at. */
  const pack = computed(() => (atSet.value ? hero.value : openPack.value))
  const rows = { packs, sets, shots, colourways } as unknown as Record<Rows, ShallowRef<Draft<object>[]>>
  const drafts = computed(() => [
    ...packs.value,
    ...sets.value,
    ...shots.value,
    ...colourways.value,
    ...(paletteDraft.value ? [paletteDraft.value] : []),
  ])
  /** The packs that stand in the open shot, by their keys. */
  const standing = settled(() => {
    const keys = new Set<string>()
    for (const { of } of photoSet.value?.document.standing ?? [])
      if (of.kind !== 'prop') keys.add(of.kind === 'pack' ? of.pack : (hero.value?.saved.key ?? ''))
    if (hero.value) keys.add(hero.value.saved.key)
    const shown = packs.value.filter((draft) => keys.has(draft.saved.key))
    return Object.fromEntries(shown.map((draft) => [draft.saved.key, draft.document]))
  })

  async function open(name: string): Promise<void> {
    detail.value = null
    for (const kind of Object.values(rows)) kind.value = []
    paletteDraft.value = null
    const found = await readJob(name)
    if (!found.shots.length || !found.sets.length) throw new Error(`The job “${found.name}” has no shot.`)
    takeRows(name, found)
    materials.value ??= await answer(api.GET('/api/materials'))
    await Promise.all([loadArtwork(name), loadOrders(name), loadPictures(name), thumbnails.load(name)])
    detail.value = found
  }

  /** Take over which rows there are and what they are called; those that are open stay as they are. */
  function takeRows(name: string, found: JobDetail): void {
    const take = <D extends object>(kind: Rows, list: ShallowRef<Draft<D>[]>): void => {
      const known = new Map(list.value.map((draft) => [draft.saved.id, draft]))
      list.value = (found[kind] as unknown as Saved<D>[]).map((row) => {
        const draft = known.get(row.id)
        if (draft) draft.saved = { ...draft.saved, name: row.name }
        return draft ?? draftOfRow(kind, row, readRow<D>(name, kind), async () => paletteDraft.value?.flush())
      })
    }
    take('packs', packs)
    take('sets', sets)
    take('shots', shots)
    take('colourways', colourways)
    const readPalette = async () => (await readJob(name)).palette as unknown as Saved<Palette>
    paletteDraft.value ??= draftOfRow('palettes', found.palette as unknown as Saved<Palette>, readPalette)
    removed.value = found.removed
  }

  function readRow<D>(name: string, kind: Rows): (id: number) => Promise<Saved<D>> {
    return async (id) => {
      const row = ((await readJob(name))[kind] as unknown as Saved<D>[]).find((one) => one.id === id)
      if (!row) throw new Error('That is no longer there.')
      return row
    }
  }

  async function catchUpWithRows(): Promise<void> {
    takeRows(slug.value, await readJob(slug.value))
  }

  async function rowsChanged(): Promise<void> {
    await Promise.all([catchUpWithRows(), thumbnails.load()])
  }

  /** Add a row, from what it starts from or as a copy; returns its key. */
  async function addRow(
    kind: Rows,
    body: { start?: string; copy_of?: number; carton_for?: number; received?: Received; name?: string } = {},
  ): Promise<string> {
    await flush()
    const params = { path: { slug: slug.value, rows: kind } }
    const made = await answer(api.POST('/api/jobs/{slug}/add/{rows}', { params, body }))
    await rowsChanged()
    return made.key
  }

  async function renameRow(kind: Rows, row_id: number, name: string): Promise<void> {
    await answer(api.PUT('/api/{rows}/{row_id}/name', { params: { path: { rows: kind, row_id } }, body: { name } }))
    await catchUpWithRows()
  }

  /** Say what the open pack was started from: it is called after that until somebody names it. */
  async function startedFrom(start: string): Promise<void> {
    const params = { path: { row_id: pack.value!.saved.id } }
    await answer(api.PUT('/api/packs/{row_id}/started-from', { params, body: { start } }))
    await catchUpWithRows()
  }

  async function removeRow(kind: Rows, row_id: number): Promise<void> {
    await rows[kind].value.find((draft) => draft.saved.id === row_id)?.flush()
    await answer(api.POST('/api/{rows}/{row_id}/remove', { params: { path: { rows: kind, row_id } } }))
    await rowsChanged()
  }

  async function fetchRowBack(kind: Rows, row_id: number): Promise<void> {
    await answer(api.POST('/api/{rows}/{row_id}/fetch-back', { params: { path: { rows: kind, row_id } } }))
    await rowsChanged()
  }

  /** Put a row one place nearer to the first, or to the last. */
  async function shiftRow(kind: Rows, row_id: number, by: -1 | 1): Promise<void> {
    const keys = rows[kind].value.map((draft) => draft.saved.key)
    const from = rows[kind].value.findIndex((draft) => draft.saved.id === row_id)
    const [key] = keys.splice(from, 1)
    keys.splice(from + by, 0, key!)
    const params = { path: { slug: slug.value, rows: kind } }
    await answer(api.PUT('/api/jobs/{slug}/{rows}/order', { params, body: { keys } }))
    await rowsChanged()
  }

  /** The shots that show something, by their names: a set, or a pack. */
  function shotsOf(kind: 'sets' | 'packs', key: string): string[] {
    const on = (draft: Draft<Shot>) => byKey(sets.value, draft.document.photo_set)
    const shows = (draft: Draft<Shot>) => {
      if (kind === 'sets') return on(draft)?.saved.key === key
      const its = draft.document.hero ?? packs.value[0]?.saved.key
      return its === key || on(draft)?.document.standing?.some((s) => s.of.kind === 'pack' && s.of.pack === key)
    }
    return shots.value.filter(shows).map((draft) => draft.saved.name)
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

  /** News from the live channel; what comes once the job is closed is of no use. */
  async function hear(event: LiveEvent): Promise<void> {
    if (!slug.value) return
    if (event.type === 'order') {
      if (!takeNews(orders.value, event.order)) await loadOrders()
      if (event.order.state === 'done') await loadPictures()
    } else if (event.type === 'rows') {
      await rowsChanged()
    } else if (event.type === 'answer') {
      await loadPictures()
    } else if (event.type === 'thumbnail') {
      thumbnails.hear(event)
    } else if (event.type === 'document') {
      void thumbnails.documentsChanged()
      const kinds = { pack: packs, set: sets, shot: shots, colourway: colourways }
      const its = event.kind === 'palette' ? [paletteDraft.value] : kinds[event.kind].value
      await its.find((d) => d?.saved.id === event.id)?.hear(event.revision)
    }
  }

  /** Catch up with what was said while nobody could be heard. */
  async function catchUp(): Promise<void> {
    if (!slug.value) return
    await Promise.all([
      ...drafts.value.map((draft) => draft.hear()),
      rowsChanged(),
      loadArtwork(),
      loadOrders(),
      loadPictures(),
    ])
  }

  const reshape = latest(
    ({ pack, palette }: { of: string | undefined; pack: Pack; palette: Palette }) => {
      const body = { pack, palette, key: '', colourway: AS_IT_IS }
      return answer(api.POST('/api/shape', { body })).then((found) => found as unknown as AnyShape)
    },
    (result, { of }) => {
      if (of !== pack.value?.saved.key) return
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
    ([document, entries]) =>
      document && !atSet.value && reshape({ of: pack.value!.saved.key, pack: document, palette: entries }),
  )
  watch(atSet, (set) => {
    if (!set && pack.value) reshape({ of: pack.value.saved.key, pack: pack.value.document, palette: palette.value })
  })

  /** Save everything that has changed, now. */
  async function flush(): Promise<void> {
    await Promise.all(drafts.value.map((draft) => draft.flush()))
  }

  return {
    detail,
    packs,
    sets,
    shots,
    colourways,
    paletteDraft,
    removed,
    openKey,
    shotKey,
    colourwayKey,
    atSet,
    hero,
    pack,
    standing,
    addRow,
    renameRow,
    startedFrom,
    removeRow,
    fetchRowBack,
    shiftRow,
    shotsOf,
    photoSet,
    shot,
    colourway,
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
    flush,
    hear,
    catchUp,
    loadArtwork,
    loadOrders,
    loadPictures,
  }
})
