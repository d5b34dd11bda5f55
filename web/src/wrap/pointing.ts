import { computed, ref } from 'vue'

/** A place on a panel lying flat, mm from its lower left corner. */
export interface Spot {
  x: number
  y: number
}
/** A tape from one place to another. */
export interface Tape {
  from: Spot
  to: Spot
}
/** What dragging does: turn the pack, move artwork or the label on it, or measure. */
export type Hand = 'turn' | 'artwork' | 'label' | 'tape'

/** What is pointed at and measured, on the flat panel and on the pack alike. */
export function usePointing() {
  const hand = ref<Hand>('turn')
  const pointed = ref<Spot | null>(null)
  const tape = ref<Tape | null>(null)
  /** mm along the tape on the printed face. */
  const length = computed(() => tape.value && lengthOf(tape.value))
  return { hand, pointed, tape, length }
}

export const lengthOf = ({ from, to }: Tape): number => Math.hypot(to.x - from.x, to.y - from.y)
