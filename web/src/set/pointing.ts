import { ref, watch } from 'vue'

import { answer, api, wordsFor, type Light } from '@/api/client'
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
/** Each with the lights that have it, what its button says, and what it and the hint say while the hand does it. */
const WAYS: { what: Pointing; of: Light['kind'][]; offers: string; doing: string; hint: string }[] = [
  {
    what: 'place',
    of: ['softbox', 'window', 'spot', 'ball', 'card', 'sun'],
    offers: 'Place its highlight',
    doing: 'Point at the pack …',
    hint: 'Drag to where the middle of the light is to be mirrored',
  },
  {
    what: 'reach',
    of: ['softbox', 'window', 'spot', 'ball', 'card'],
    offers: 'Drag its rim',
    doing: 'Drag its rim …',
    hint: 'Drag to where its mirrored face is to end; its middle stays',
  },
  {
    what: 'soften',
    of: ['softbox', 'spot'],
    offers: 'Soften its rim',
    doing: 'Drag where it fades …',
    hint: 'Drag to where its mirrored face is to be half as bright',
  },
]
/** What can be said of a light by pointing. */
export const pointedFor = (light: Light) => WAYS.filter((way) => way.of.includes(light.kind))

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

/** What a drag on the picture does. */
export function hintFor(pointing: Pointing | null, focusing: boolean, partly: boolean): string {
  if (partly) return 'Drag over what alone is to be refined'
  if (focusing) return 'Point at what is to be sharp'
  const said = WAYS.find((way) => way.what === pointing)?.hint
  return said ?? 'Drag the picture to walk around, with the right button to move it; scroll to step closer'
}
