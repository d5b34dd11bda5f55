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

type Highlight = ({ kind: 'highlight' } | { kind: 'rim'; soft: boolean }) & InPicture
/** What of a light's highlight the hand says: where it is, how far it reaches, or where it is half as bright. */
export type Pointing = 'place' | 'reach' | 'soften'

/** What the hand says by pointing into the picture: a light's highlight, or what is to be sharp. */
export function usePointing(does: {
  /** Of the light that is selected. */
  highlight: (how: Highlight) => Promise<unknown>
  focus: (at: Place) => void
}) {
  const job = useJob()
  const pointing = ref<Pointing | null>(null)
  const focusing = ref(false)
  const focusProblem = ref('')
  watch(focusing, (on) => on && (pointing.value = null))
  watch(pointing, (on) => on && (focusing.value = false))
  watch([pointing, focusing], () => (focusProblem.value = ''))

  const highlight = latest(
    (at: InPicture) =>
      pointing.value === 'place'
        ? does.highlight({ kind: 'highlight', ...at })
        : does.highlight({ kind: 'rim', soft: pointing.value === 'soften', ...at }),
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

const HINTS: Record<Pointing, string> = {
  place: 'Drag to where the middle of the light is to be mirrored',
  reach: 'Drag to where its mirrored face is to end; its middle stays',
  soften: 'Drag to where its mirrored face is to be half as bright',
}
/** What a drag on the picture does. */
export function hintFor(pointing: Pointing | null, focusing: boolean): string {
  if (focusing) return 'Point at what is to be sharp'
  return pointing ? HINTS[pointing] : 'Drag the picture to walk around, a pack to move it; scroll to step closer'
}
