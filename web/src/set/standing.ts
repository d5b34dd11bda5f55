import { computed, type Ref } from 'vue'

import type { PhotoSet } from '@/api/client'
import { useJob } from '@/stores/job'

/** What stands on a set: which of it are cartons that things can be put into, and what it is called. */
export function useStanding(set: Readonly<Ref<PhotoSet>>) {
  const job = useJob()
  const standing = computed(() =>
    (set.value.standing ?? []).map((one) => {
      const key = one.of.kind === 'pack' ? one.of.pack : ''
      return { id: one.id, key, pack: key ? job.packs.find((p) => p.saved.key === key) : job.hero }
    }),
  )
  const boxes = computed(() =>
    standing.value.filter(({ pack }) => pack?.document.form.kind === 'carton').map(({ id }) => id),
  )
  /** After their packs, told apart by number. */
  const names = computed(() => {
    const counts: Record<string, number> = {}
    return Object.fromEntries(
      standing.value.map(({ id, key, pack }) => {
        const name = pack?.saved.name ?? key
        counts[name] = (counts[name] ?? 0) + 1
        return [id, counts[name] > 1 ? `${name} (${counts[name]})` : name]
      }),
    )
  })
  return { boxes, names }
}
