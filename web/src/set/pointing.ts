import { ref, watch } from 'vue'

import { answer, api, wordsFor } from '@/api/client'
import { latest } from '@/composables/latest'
import { useJob } from '@/stores/job'
import type { Place } from './lights'

/** A place of the picture, 0..1 from its left and its top. */
export interface InPicture {
  x: number
  y: number
}

/** What the hand says by pointing into the picture: where a highlight goes, or what is to be sharp. */
export function usePointing(does: { highlight: (at: InPicture) => Promise<unknown>; focus: (at: Place) => void }) {
  const job = useJob()
  const pointing = ref(false)
  const focusing = ref(false)
  const focusProblem = ref('')
  watch(focusing, (on) => on && (pointing.value = false))
  watch(pointing, (on) => on && (focusing.value = false))
  watch([pointing, focusing], () => (focusProblem.value = ''))

  const highlight = latest(
    does.highlight,
    () => undefined,
    () => undefined,
  )
  const focus = latest(
    (at: InPicture) => {
      const body = { photo_set: job.photoSet!.document, shot: job.shot!.document, ...at }
      return answer(api.POST('/api/shots/{shot_id}/touch', { params: { path: { shot_id: job.shotId } }, body }))
    },
    (met) => {
      focusProblem.value = ''
      does.focus(met.place.map((v) => Number(v!.toFixed(2))) as Place)
    },
    (error) => (focusProblem.value = wordsFor(error)),
  )
  const pointAt = (at: InPicture) => (focusing.value ? focus(at) : highlight(at))
  return { pointing, focusing, focusProblem, pointAt }
}
