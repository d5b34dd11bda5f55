import { computed, shallowRef, watch } from 'vue'

import { answer, api, type Camera, type PhotoSet, type Plan, type Shot } from '@/api/client'
import { latest } from './latest'
import { seenFrom } from './view'

interface Wish {
  shot_id: number
  photo_set: PhotoSet
  shot: Shot
}
const same = (one: Camera, other: Camera) => JSON.stringify(one) === JSON.stringify(other)

/**
 * Where the core has what stands, lights, camera and sweep, kept up to date while they are moved; and the camera of the
 * shot with what it sees, which goes ahead of that while it is walked about with.
 */
export function usePlan(shotId: () => number, set: () => PhotoSet, shot: () => Shot, packs: () => unknown) {
  let standing = ''
  const found = shallowRef<{ plan: Plan; wish: Wish } | null>(null)
  const draw = latest(
    (wish: Wish) => {
      const { shot_id, ...body } = wish
      const call = api.POST('/api/shots/{shot_id}/plan', { params: { path: { shot_id } }, body })
      return answer(call).then((answered) => answered as unknown as Plan)
    },
    (plan, wish) => {
      if (wish.shot_id !== shotId()) return
      const text = JSON.stringify(plan.stands)
      if (found.value && text === standing) plan.stands = found.value.plan.stands // nothing is drawn anew then
      standing = text
      found.value = { plan, wish }
    },
    () => undefined,
  )
  watch([set, shot, shotId, packs], () => draw({ shot_id: shotId(), photo_set: set(), shot: shot() }), {
    immediate: true,
  })
  const plan = computed(() => found.value?.plan ?? null)
  /** Whether the camera has been moved since the plan was drawn. */
  const ahead = computed(() => {
    const wish = found.value?.wish
    return wish && wish.shot_id === shotId() && !same(wish.shot.camera, shot().camera)
  })
  const camera = computed(() => (plan.value && !ahead.value ? plan.value.shot_camera : shot().camera))
  const view = computed(() => {
    if (!plan.value) return null
    const { shot_camera, view: drawn } = plan.value
    return ahead.value ? seenFrom(camera.value, shot_camera, drawn) : drawn
  })
  return { plan, camera, view }
}
