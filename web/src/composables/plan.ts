import { shallowRef, watch } from 'vue'

import { answer, api, type Camera, type PhotoSet, type Plan } from '@/api/client'
import { latest } from './latest'

/** Where the core has lights, camera and the sweep's line, kept up to date while they are moved. */
export function usePlan(shotId: () => number, set: () => PhotoSet, camera: () => Camera) {
  const plan = shallowRef<Plan | null>(null)
  const draw = latest(
    (body: { photo_set: PhotoSet; camera: Camera }) =>
      answer(api.POST('/api/shots/{shot_id}/plan', { params: { path: { shot_id: shotId() } }, body })).then(
        (found) => found as Plan,
      ),
    (found) => (plan.value = found),
    () => undefined,
  )
  watch([set, camera], () => draw({ photo_set: set(), camera: camera() }), { immediate: true })
  return plan
}
