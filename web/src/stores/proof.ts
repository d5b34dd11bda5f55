import { computed, inject, onBeforeUnmount, onMounted, ref, shallowRef, watch } from 'vue'

import type { Colourway, Shot } from '@/api/client'
import { settled } from '@/composables/settled'
import { soloed } from '@/composables/soloed'
import type { Draft } from './documents'
import { useJob } from './job'
import type { BenchView, Live } from '@/composables/live'
import { PIXELS, proofSize, sizeOf, type ProofSize, type Share } from '@/composables/proofSize'

const REST_MS = 60
/** Drawings answer at once: light waits until the hand has really come to rest. */
const BENCH_REST_MS = 450
/** Of a proof that is compared with: as good as it gets in a moment, then the open one goes on. */
const BESIDE_SAMPLES = 12

/** A colourway seen beside the one that is open; its proof once there is one of what is seen now. */
export interface Beside {
  colourway: Draft<Colourway> | null
  name: string
  address: string | null
}

/** How a drawn pack is seen once it has come to rest; the aspect is of its view. */
export type BenchRest = Omit<BenchView, 'pack'> & { aspect: number }

function allSharp(shot: Shot): Shot {
  return { ...shot, camera: { ...shot.camera, f_number: null } }
}

/** Asks for a proof of the shot as it is on the page whenever the hand rests. */
export function useProof() {
  const job = useJob()
  const live = inject<Live>('live')!
  /** The number of a light that is seen alone. */
  const alone = ref<number | null>(null)
  /** Whether everything is seen sharp, however far the lens is opened. */
  const everything = ref(false)
  const documents = settled(() => ({
    shot_id: job.shotId,
    packs: job.standing,
    palette: job.palette,
    photo_set: soloed(job.photoSet!.document, alone.value),
    shot: everything.value ? allSharp(job.shot!.document) : job.shot!.document,
    colourway: job.colourway?.saved.key ?? null,
    dress: job.colourway?.document ?? null,
  }))
  const purpose = computed(() => documents.value.shot.purposes[0]!)
  const aspect = computed(() => purpose.value.width_px / purpose.value.height_px)
  let timer: ReturnType<typeof setTimeout> | undefined
  let painted = 0

  const beside = shallowRef<Beside | null>(null)
  /** Whether it is the proof of the other colourway that comes now. */
  const turned = ref(false)
  const proof = computed(() => (turned.value ? null : live.proof.value))

  function ask(): void {
    const other = beside.value && !beside.value.address ? beside.value.colourway : undefined
    turned.value = other !== undefined
    const way = other === undefined ? {} : { colourway: other?.saved.key ?? null, dress: other?.document ?? null }
    live.ask({ ...proofSize(purpose.value, PIXELS[size.value], part.value), ...documents.value, ...way })
  }
  watch(live.proof, (news) => {
    if (!turned.value || !beside.value || !news || (news.samples < BESIDE_SAMPLES && !news.last)) return
    beside.value = { ...beside.value, address: URL.createObjectURL(news.picture) }
    live.proof.value = null
    ask()
  })

  /** See another colourway beside the one that is open, or none. */
  function compare(other: { colourway: Draft<Colourway> | null; name: string } | null): void {
    outdated()
    beside.value = other && { ...other, address: null }
    touch()
  }
  function outdated(): void {
    if (!beside.value?.address) return
    URL.revokeObjectURL(beside.value.address)
    beside.value = { ...beside.value, address: null }
  }

  /** How large the proof is. */
  const size = ref<ProofSize>('medium')
  /** The part of the picture that alone is refined, and the whole proof from before that lies beneath it. */
  const part = shallowRef<Share | null>(null)
  const beneath = ref<string | null>(null)
  function uncover(): void {
    if (beneath.value) URL.revokeObjectURL(beneath.value)
    beneath.value = null
  }
  /** Refine a part of the picture only, or all of it again. */
  function refineOnly(share: Share | null): void {
    const whole = part.value ? null : proof.value
    if (!share) uncover()
    else if (whole) beneath.value = URL.createObjectURL(whole.picture)
    part.value = share
  }
  watch([size, part], () => {
    outdated()
    live.proof.value = null
    hold(false)
  })

  const touched = ref(0)
  /** Whether nothing has been touched since one came to what is shown: its kept picture is painted first. */
  const arrived = ref(true)
  const held = ref(false)

  function touch(): void {
    touched.value += 1
    outdated()
    uncover()
    live.proof.value = null
    live.hold()
    clearTimeout(timer)
    cancelAnimationFrame(painted)
    if (held.value) return
    if (arrived.value) painted = requestAnimationFrame(() => (painted = requestAnimationFrame(ask)))
    else timer = setTimeout(ask, REST_MS)
  }

  /** Hold the proof as it is, or let it go on. */
  function hold(still: boolean): void {
    held.value = still
    clearTimeout(timer)
    cancelAnimationFrame(painted)
    if (still) live.hold()
    else ask()
  }

  onMounted(ask)
  watch(documents, (now, before) => {
    arrived.value = now.shot_id !== before.shot_id || now.colourway !== before.colourway
    if (now.shot_id !== before.shot_id) part.value = null
    touch()
  })
  onBeforeUnmount(() => {
    clearTimeout(timer)
    cancelAnimationFrame(painted)
    outdated()
    uncover()
    live.hold()
    live.proof.value = null
  })
  return {
    size,
    part,
    beneath,
    refineOnly,
    touched,
    arrived,
    held,
    hold,
    alone,
    everything,
    beside,
    compare,
    proof,
    problem: live.proofProblem,
    waits: live.proofWaits,
    aspect,
  }
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
    live.ask({ ...sizeOf(PIXELS.medium, aspect), packs: { [key]: pack }, palette, bench: { pack: key, ...from } })
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
