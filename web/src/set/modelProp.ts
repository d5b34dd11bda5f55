import { ref } from 'vue'

import { type Arrangement, type ReadModel, send, wordsFor } from '@/api/client'
import { useJob } from '@/stores/job'
import { inFull } from './props'

/** Stands a model that somebody sent on the set, as a prop. */
export function useModelProp(arrange: (how: Arrangement) => Promise<unknown>, say: (words: string) => void) {
  const job = useJob()
  const reading = ref(false)

  async function standModel(file: File): Promise<void> {
    reading.value = true
    say('')
    try {
      const form = new FormData()
      form.append('file', file)
      const response = await send(`/api/jobs/${job.detail!.slug}/models/read`, { method: 'POST', body: form })
      await arrange({ kind: 'stand-model', received: inFull((await response.json()) as ReadModel) })
    } catch (error) {
      say(wordsFor(error))
    }
    reading.value = false
  }
  return { reading, standModel }
}
