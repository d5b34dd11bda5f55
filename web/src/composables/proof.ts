import { computed, inject, onBeforeUnmount, onMounted, ref, watch } from 'vue'

import { useJob } from '@/stores/job'
import type { Live } from './live'

const REST_MS = 60
const PROOF_PIXELS = 150_000

/** Asks for a proof of the shot as it is on the page whenever the hand rests. */
export function useProof() {
  const job = useJob()
  const live = inject<Live>('live')!
  const documents = computed(() => ({
    pack: job.pack!.document,
    photo_set: job.photoSet!.document,
    shot: job.shot!.document,
  }))
  const aspect = computed(() => documents.value.shot.width_px / documents.value.shot.height_px)
  let timer: ReturnType<typeof setTimeout> | undefined

  function ask(): void {
    const width = Math.max(Math.round(Math.sqrt(PROOF_PIXELS * aspect.value)), 16)
    live.ask({ shot_id: job.shotId, width, height: Math.max(Math.round(width / aspect.value), 16), ...documents.value })
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
