import { computed, onBeforeUnmount, shallowRef, watch } from 'vue'

import type { PhotoSet, Shot } from '@/api/client'
import type { Share } from '@/composables/proofSize'
import { useJob } from '@/stores/job'
import type { useProof } from '@/stores/proof'

interface Before {
  address: string
  part: Share | null
  shot: Shot
  photoSet: PhotoSet
}

/** A proof that is kept as it is, to be seen against what comes after it, and its set and shot to go back to. */
export function useBefore({ proof, part, touched }: ReturnType<typeof useProof>) {
  const job = useJob()
  const before = shallowRef<Before | null>(null)
  /** Whether it still refines: it is the proof of what is there now. */
  let refines = false

  function drop(): void {
    if (before.value) URL.revokeObjectURL(before.value.address)
    before.value = null
  }
  function keep(): void {
    if (!proof.value) return
    drop()
    refines = true
    const address = URL.createObjectURL(proof.value.picture)
    const copy = <T>(document: T) => JSON.parse(JSON.stringify(document)) as T
    const [shot, photoSet] = [copy(job.shot!.document), copy(job.photoSet!.document)]
    before.value = { address, part: part.value, shot, photoSet }
  }
  /** Have set and shot as they were then. */
  function goBack(): void {
    const kept = before.value!
    job.photoSet!.edit((d) => Object.assign(d, kept.photoSet))
    job.shot!.edit((d) => Object.assign(d, kept.shot))
    drop()
  }
  watch(touched, () => (refines = false))
  watch(part, () => (refines = false))
  watch(proof, (finer) => {
    if (!before.value || !finer || !refines) return
    URL.revokeObjectURL(before.value.address)
    before.value = { ...before.value, address: URL.createObjectURL(finer.picture) }
  })
  watch(() => job.shotId, drop)
  onBeforeUnmount(drop)
  /** What is seen on the left then. */
  const seen = computed(
    () => before.value && { name: 'before', proof: before.value.address, part: before.value.part, drawn: null },
  )
  return { before: seen, keep, drop, goBack }
}
