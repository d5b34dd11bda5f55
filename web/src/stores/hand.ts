/** Whether something is held with the pointer: what one gesture does is one step. */
export const hand = { holds: false }

if (typeof window !== 'undefined') {
  const letGo = () => (hand.holds = false)
  window.addEventListener('pointerdown', () => (hand.holds = true), true)
  window.addEventListener('pointerup', letGo, true)
  window.addEventListener('pointercancel', letGo, true)
  window.addEventListener('blur', letGo)
}
