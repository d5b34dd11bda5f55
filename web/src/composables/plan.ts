import { shallowRef, watch } from 'vue'

import { answer, api, type PhotoSet, type Plan, type Shot } from '@/api/client'
import { latest } from './latest'

/** Where the core has what stands, lights, camera and sweep, kept up to date while they are moved. */
export function usePlan(shotId: () => number, set: () => PhotoSet, shot: () => Shot, packs: () => unknown) {
  const plan = shallowRef<Plan | null>(null)
  const draw = latest(
    (wish: { shot_id: number; photo_set: PhotoSet; shot: Shot }) => {
      const { shot_id, ...body } = wish
      const call = api.POST('/api/shots/{shot_id}/plan', { params: { path: { shot_id } }, body })
      return answer(call).then((found) => found as unknown as Plan)
    },
    (found, wish) => wish.shot_id === shotId() && (plan.value = found),
    () => undefined,
  )
  watch([set, shot, shotId, packs], () => draw({ shot_id: shotId(), photo_set: set(), shot: shot() }), {
    immediate: true,
  })
  return plan
}
