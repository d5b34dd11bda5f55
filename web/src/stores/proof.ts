import { computed, inject, onBeforeUnmount, onMounted, ref, watch } from 'vue'

import { settled } from '@/composables/settled'
import { useJob } from './job'
import type { Live } from '@/composables/live'

const REST_MS = 60
const PROOF_PIXELS = 150_000

/** Asks for a proof of the shot as it is on the page whenever the hand rests. */
export function useProof() {
  const job = useJob()
  const live = inject<Live>('live')!
  const documents = settled(() => ({
    shot_id: job.shotId,
    packs: job.standing,
    palette: job.palette,
    photo_set: job.photoSet!.document,
    shot: job.shot!.document,
    colourway: job.colourway?.saved.key ?? null,
    dress: job.colourway?.document ?? null,
  }))
  const purpose = computed(() => documents.value.shot.purposes[0]!)
  const aspect = computed(() => purpose.value.width_px / purpose.value.height_px)
  let timer: ReturnType<typeof setTimeout> | undefined

  function ask(): void {
    const width = Math.max(Math.round(Math.sqrt(PROOF_PIXELS * aspect.value)), 16)
    live.ask({ width, height: Math.max(Math.round(width / aspect.value), 16), ...documents.value })
  }

  const touched = ref(0)
  const held = ref(false)

  function touch(): void {
    touched.value += 1
    live.proof.value = null
    live.hold()
    clearTimeout(timer)
    if (!held.value) timer = setTimeout(ask, REST_MS)
  }

  /** Hold the proof as it is, or let it go on. */
  function hold(still: boolean): void {
    held.value = still
    clearTimeout(timer)
    if (still) live.hold()
    else ask()
  }

  onMounted(ask)
  watch(documents, touch)
  onBeforeUnmount(() => {
    clearTimeout(timer)
    live.hold()
    live.proof.value = null
  })
  return { touched, held, hold, proof: live.proof, problem: live.proofProblem, waits: live.proofWaits, aspect }
}
