import { shallowRef, watch } from 'vue'

import { answer, api, type Camera, type View } from '@/api/client'
import { latest } from './latest'

/** Where the core stands a camera, kept up to date while it is moved. */
export function useView(camera: () => Camera, aspect: () => number) {
  const view = shallowRef<View | null>(null)
  const stand = latest(
    (wish: { camera: Camera; aspect: number }) =>
      answer(api.POST('/api/view', { body: wish })).then((found) => found as View),
    (found) => (view.value = found),
    () => undefined,
  )
  watch([camera, aspect], () => stand({ camera: camera(), aspect: aspect() }), { immediate: true })
  return view
}
