import { answer, api } from '@/api/client'
import { type Draft, draftOf, type Saved } from './documents'

/** Kinds of rows that a job has several of, as they stand in addresses. */
export type Rows = 'packs' | 'sets' | 'shots' | 'colourways'

/**
 * A draft of a row. Every kind of document is saved alike, so the addresses of one stand for all.
 *
 * `first` is saved before it: what it refers to is there by then.
 */
export function draftOfRow<D extends object>(
  rows: Rows | 'palettes',
  row: Saved<D>,
  read: (id: number) => Promise<Saved<D>>,
  first: () => Promise<void> = async () => {},
): Draft<D> {
  const at = (row_id: number) => ({ params: { path: { row_id } } })
  const path = `/api/${rows}/{row_id}` as '/api/packs/{row_id}'
  const saved = (call: unknown) => answer(call as Parameters<typeof answer>[0]) as Promise<Saved<D>>
  return draftOf<D>(row, {
    read,
    save: async (id, base_revision, document) => {
      await first()
      return saved(api.PUT(path, { ...at(id), body: { base_revision, document: document as never } }))
    },
    undo: (id) => saved(api.POST(`${path}/undo`, at(id))),
    redo: (id) => saved(api.POST(`${path}/redo`, at(id))),
    restore: (id, number) => saved(api.POST(`${path}/restore`, { ...at(id), body: { number } })),
  })
}

/** The row of a key; without one, the first. */
export function byKey<D extends object>(drafts: Draft<D>[], key: string | null | undefined): Draft<D> | undefined {
  return key ? drafts.find((draft) => draft.saved.key === key) : drafts[0]
}
