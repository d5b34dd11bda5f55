import type { Ref } from 'vue'

import type { Arrangement, PhotoSet, Plan } from '@/api/client'
import { lifted, RESTS_MM, shift, together } from './moving'
import { PROP } from './props'

/** Moves things by hand: from where they stood when they were grabbed, to rest on what is there. */
export function useHands(
  set: Readonly<Ref<PhotoSet>>,
  plan: Readonly<Ref<Plan | null>>,
  edit: (change: (document: PhotoSet) => void) => void,
  arrange: (how: Arrangement, quietly: boolean) => Promise<unknown>,
) {
  let grabbed: { set: PhotoSet; resting: Set<string> } | null = null

  function grab() {
    const resting = (plan.value?.stands ?? []).filter((one) => Math.abs(one.air) < RESTS_MM).map((one) => one.id)
    return (grabbed ??= { set: set.value, resting: new Set(resting) })
  }
  function moved(change: (fresh: PhotoSet, from: PhotoSet) => void): void {
    const from = grab().set
    edit((d) => {
      const fresh = JSON.parse(JSON.stringify(from)) as PhotoSet
      change(fresh, from)
      Object.assign(d, { standing: fresh.standing, groups: fresh.groups })
    })
  }
  /** Move things by mm on the floor. Where there are props, what rested comes to rest on what is there now. */
  function move(ids: string[], dx: number, dy: number, done: boolean): void {
    moved((fresh) => shift(fresh, ids, dx, dy))
    if (!done) return
    const { resting } = grabbed!
    grabbed = null
    const again = ids.filter((id) => resting.has(id))
    if (again.length && plan.value?.stands.some((one) => one.key.startsWith(PROP)))
      void arrange({ kind: 'rest', ids: again }, true)
  }
  /** Lift things by mm. */
  function lift(ids: string[], dz: number, done: boolean): void {
    moved((fresh, from) => lifted(fresh, together(from, ids), dz))
    if (done) grabbed = null
  }
  return { move, lift }
}
