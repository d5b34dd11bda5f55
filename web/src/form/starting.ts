import { ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'

import { type Pack, type StartingPoint, wordsFor } from '@/api/client'
import { useJob } from '@/stores/job'
import { takeUp } from './takeUp'

/** Starting the open pack anew: whether the packs to start from are shown, and taking one up. */
export function useStarting() {
  const job = useJob()
  const route = useRoute()
  const router = useRouter()
  const starting = ref(false)
  const problem = ref('')

  watch(
    () => [job.pack?.saved.key, route.query.start] as const,
    ([, start]) => (starting.value = Boolean(start)),
    { immediate: true },
  )
  function start(point: StartingPoint): void {
    job.pack!.edit((d) => Object.assign(d, takeUp(d, point.pack as Pack)))
    job.startedFrom(point.slug).catch((error) => (problem.value = wordsFor(error)))
    leave()
  }
  /** Go on with the pack as it is; a reload does not ask again what to start from. */
  function leave(): void {
    starting.value = false
    if (route.query.start) void router.replace({ query: { ...route.query, start: undefined } })
  }
  return { starting, problem, start, leave }
}
