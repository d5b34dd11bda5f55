import { type Ref, ref, watch } from 'vue'

import type { Camera, PhotoSet, Plan } from '@/api/client'
import { takenIn } from '@/composables/view'
import { useJob } from '@/stores/job'
import { around } from './surrounds'
import { panned } from './views'

const [NEAREST_MM, FURTHEST_MM] = [50, 5000]

/** Walking about with the camera, by numbers and by hand in the picture. */
export function useWalking(
  camera: Readonly<Ref<Camera>>,
  plan: Readonly<Ref<Plan | null>>,
  aspect: Readonly<Ref<number>>,
  editSet: (change: (document: PhotoSet) => void) => void,
) {
  const job = useJob()
  /** Whether a drag in the picture turns what is all around, not the camera. */
  const turning = ref(false)
  watch([() => job.shotId, () => job.photoSet?.document.surround.kind], () => (turning.value = false))

  /** Stand the camera by hand: it stays there from now on. */
  function stand(change: (camera: Camera) => void): void {
    const now = { ...camera.value }
    change(now)
    job.shot!.edit((d) => Object.assign(d, { camera: now, framed_by_hand: true }))
  }
  /** Change what the camera looks like and where it looks from; it goes on framing by itself if it did. */
  function look(change: (camera: Camera) => void): void {
    const now = { ...camera.value }
    change(now)
    job.shot!.edit((d) => (d.camera = now))
  }
  const fit = () => job.shot!.edit((d) => Object.assign(d, { camera: camera.value, framed_by_hand: false }))
  function orbit(turn: number, rise: number): void {
    if (turning.value) {
      editSet((d) => d.surround.kind !== 'even' && (d.surround.turn = around(d.surround.turn - turn)))
      return
    }
    look((c) => {
      c.azimuth = Math.round((((c.azimuth + turn + 540) % 360) - 180) * 10) / 10
      c.height = Math.round((c.height + rise) * 10) / 10
    })
  }
  function pan(right: number, down: number): void {
    if (!plan.value) return
    const tall = takenIn(camera.value, plan.value.view)
    stand((c) => Object.assign(c, panned(c, tall, aspect.value, right, down)))
  }
  /** Nearer by less than a mm still is nearer: slow wheels and pads step by little. */
  function nearer(factor: number): void {
    stand((c) => {
      c.distance = Math.min(Math.max(Math.round(c.distance * factor * 10) / 10, NEAREST_MM), FURTHEST_MM)
      if (c.projection === 'orthographic')
        c.orthographic_width = Math.round((c.orthographic_width ?? 200) * factor * 10) / 10
    })
  }
  return { turning, stand, look, fit, orbit, pan, nearer }
}
