import { reactive } from 'vue'

import type { Material } from '@/api/client'

/** px that a hand moves before it carries something. */
const CARRIED_FROM = 6

/** What lies under a material that is carried; whoever stands there says what would happen. */
export interface Offer {
  material: Material
  x: number
  y: number
  /** To everything that is made of the same, too. */
  alike: boolean
  /** Said beside the hand. */
  says: string
}

/** A material that is carried from its picture, and what is said of where it is. */
export const inHand = reactive({ name: '', picture: '', x: 0, y: 0, says: '', carried: false })

/** Carry a material from where it is pressed; whether it was, is told by `after`. */
export function carryMaterial(
  event: PointerEvent,
  what: { material: Material; name: string; picture: string },
  after: (carried: boolean) => void,
): void {
  if (event.button !== 0) return
  const start = { x: event.clientX, y: event.clientY }

  function offer(kind: 'material-over' | 'material-drop', at: PointerEvent): Offer {
    const detail = { material: what.material, x: at.clientX, y: at.clientY, alike: at.shiftKey, says: '' }
    const there = document.elementFromPoint(at.clientX, at.clientY)
    there?.dispatchEvent(new CustomEvent(kind, { bubbles: true, detail }))
    return detail
  }
  function move(at: PointerEvent): void {
    if (!inHand.carried && Math.hypot(at.clientX - start.x, at.clientY - start.y) < CARRIED_FROM) return
    const { says } = offer('material-over', at)
    Object.assign(inHand, { ...what, x: at.clientX, y: at.clientY, says, carried: true })
  }
  function end(at: PointerEvent): void {
    const { carried } = inHand
    if (carried && at.type === 'pointerup') offer('material-drop', at)
    stop()
    after(carried)
  }
  function leave(key: KeyboardEvent): void {
    if (key.key !== 'Escape' || !inHand.carried) return
    key.stopImmediatePropagation()
    stop()
    after(true)
  }
  function stop(): void {
    inHand.carried = false
    window.removeEventListener('pointermove', move)
    window.removeEventListener('pointerup', end)
    window.removeEventListener('pointercancel', end)
    window.removeEventListener('keydown', leave, true)
  }
  window.addEventListener('pointermove', move)
  window.addEventListener('pointerup', end)
  window.addEventListener('pointercancel', end)
  window.addEventListener('keydown', leave, true)
}
