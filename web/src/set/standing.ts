import { computed, type Ref } from 'vue'

import type { PhotoSet } from '@/api/client'
import { propName, usePropKinds } from './props'
import { useJob } from '@/stores/job'

/** What stands on a set: which of it are cartons that things can be put into, and what it is called. */
export function useStanding(set: Readonly<Ref<PhotoSet>>) {
  const job = useJob()
  const kinds = usePropKinds()
  const standing = computed(() =>
    (set.value.standing ?? []).map((one) => {
      if (one.of.kind === 'prop') {
        const prop = set.value.props?.[one.of.prop]
        return { id: one.id, key: '', pack: null, name: propName(prop, kinds.value) }
      }
      const key = one.of.kind === 'pack' ? one.of.pack : ''
      const pack = key ? job.packs.find((p) => p.saved.key === key) : job.hero
      return { id: one.id, key, pack, name: pack?.saved.name ?? key }
    }),
  )
  const boxes = computed(() =>
    standing.value.filter(({ pack }) => pack?.document.form.kind === 'carton').map(({ id }) => id),
  )
  /** After their packs and kinds, told apart by number. */
  const names = computed(() => {
    const counts: Record<string, number> = {}
    return Object.fromEntries(
      standing.value.map(({ id, name }) => {
        counts[name] = (counts[name] ?? 0) + 1
        return [id, counts[name] > 1 ? `${name} (${counts[name]})` : name]
      }),
    )
  })
  return { boxes, names }
}
