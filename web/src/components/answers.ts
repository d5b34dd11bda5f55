import type { ClientAnswer } from '@/api/client'
import type { Pin } from './PinnedPicture.vue'

/** What a picture stands at: the last word on it. */
export function verdictOf(answers: ClientAnswer[]): ClientAnswer['verdict'] | null {
  return answers.at(-1)?.verdict ?? null
}

export const VERDICTS: Record<ClientAnswer['verdict'], string> = {
  approved: 'approved',
  changes: 'asks for changes',
}

/** Pins of the answers that mean a place, numbered as the answers are. */
export function pinsOf(answers: ClientAnswer[]): Pin[] {
  return answers.flatMap(({ x, y, name, remark }, index) =>
    typeof x === 'number' && typeof y === 'number'
      ? [{ x, y, mark: String(index + 1), words: `${name}: ${remark}` }]
      : [],
  )
}
