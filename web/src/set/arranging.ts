import { ref } from 'vue'

import { answer, api, type Arrangement, wordsFor } from '@/api/client'
import { useJob } from '@/stores/job'

/** Arranges what stands on the open shot's set: the core says where everything goes. */
export function useArranging() {
  const job = useJob()
  const problem = ref('')
  let underway: Promise<unknown> = Promise.resolve()

  async function arrange(how: Arrangement): Promise<string[]> {
    problem.value = ''
    const before = new Set((job.photoSet!.document.standing ?? []).map((one) => one.id))
    try {
      const body = { photo_set: job.photoSet!.document, shot: job.shot!.document, how }
      const params = { path: { shot_id: job.shotId } }
      const { photo_set } = await answer(api.POST('/api/shots/{shot_id}/arrange', { params, body }))
      job.photoSet!.edit((d) => Object.assign(d, photo_set))
    } catch (error) {
      problem.value = wordsFor(error)
    }
    return (job.photoSet!.document.standing ?? []).map((one) => one.id).filter((id) => !before.has(id))
  }

  /** One after the other: each begins from what the one before made. Resolves to what is new on the set. */
  function inTurn(how: Arrangement): Promise<string[]> {
    const next = underway.then(() => arrange(how))
    underway = next
    return next
  }
  return { arrange: inTurn, problem }
}
