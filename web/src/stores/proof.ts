import { computed, inject, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'

import { settled } from '@/composables/settled'
import { useJob } from './job'
import type { BenchView, Live } from '@/composables/live'

const REST_MS = 60
/** Drawings answer at once: light waits until the hand has really come to rest. */
const BENCH_REST_MS = 450
const PROOF_PIXELS = 150_000

/** How a drawn pack is seen once it has come to rest; the aspect is of its view. */
export type BenchRest = Omit<BenchView, 'pack'> & { aspect: number }

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

/** Asks for a proof of the pack that is open, in neutral light and seen as it is drawn, when the hand rests. */
export function useBenchProof() {
  const job = useJob()
  const live = inject<Live>('live')!
  const view = shallowRef<BenchRest | null>(null)
  const documents = settled(() => ({ pack: job.pack!.document, palette: job.palette, view: view.value }))
  let timer: ReturnType<typeof setTimeout> | undefined

  function ask(): void {
    const { pack, palette, view: seen } = documents.value
    if (!seen) return
    const key = job.pack!.saved.key
    const { aspect, ...from } = seen
    const width = Math.max(Math.round(Math.sqrt(PROOF_PIXELS * aspect)), 16)
    const height = Math.max(Math.round(width / aspect), 16)
    live.ask({ width, height, packs: { [key]: pack }, palette, bench: { pack: key, ...from } })
  }
  watch(documents, () => {
    live.proof.value = null
    live.hold()
    clearTimeout(timer)
    timer = setTimeout(ask, BENCH_REST_MS)
  })
  onBeforeUnmount(() => {
    clearTimeout(timer)
    live.hold()
    live.proof.value = null
  })
  return { view, proof: live.proof }
}
