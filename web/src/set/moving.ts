import type { PhotoSet, Pose } from '@/api/client'

/** Mm of air beneath what rests, at most. */
export const RESTS_MM = 0.5

/** What moves when something is moved: itself, or the outermost box that it stands in. */
export function carrier(set: PhotoSet, id: string): string {
  const inside = set.standing?.find((one) => one.id === id)?.inside
  return inside ? carrier(set, inside) : id
}

/** Where something is that can be moved: itself, or the outermost group it is in. */
export function outermost(set: PhotoSet, id: string): { group: string | null } {
  const moves = carrier(set, id)
  let key = set.standing?.find((one) => one.id === moves)?.group ?? null
  for (let next = key; next; next = set.groups?.[next]?.group ?? null) key = next
  return { group: key }
}

/** Every id that moves along with these. */
export function together(set: PhotoSet, ids: string[]): string[] {
  const carriers = new Set(ids.map((id) => carrier(set, id)))
  const groups = new Set(ids.map((id) => outermost(set, id).group).filter(Boolean))
  return (set.standing ?? [])
    .filter((one) => carriers.has(carrier(set, one.id)) || groups.has(outermost(set, one.id).group))
    .map((one) => one.id)
}

/** Move things on the floor by mm; what is grouped moves as one. */
export function shift(set: PhotoSet, ids: string[], dx: number, dy: number): void {
  moveAll(set, ids, (pose) => ({ ...pose, x: summed(pose.x, dx), y: summed(pose.y, dy) }))
}

/** Lift things by mm. */
export function lifted(set: PhotoSet, ids: string[], dz: number): void {
  moveAll(set, ids, (pose) => ({ ...pose, z: summed(pose.z, dz) }))
}

function summed(from: number | undefined, by: number): number {
  return Number(((from ?? 0) + by).toFixed(2))
}

function moveAll(set: PhotoSet, ids: string[], move: (pose: Pose) => Pose): void {
  const groups = new Set<string>()
  const carriers = new Set(ids.map((id) => carrier(set, id)))
  for (const one of set.standing ?? []) {
    if (!carriers.has(one.id)) continue
    const { group } = outermost(set, one.id)
    if (group) groups.add(group)
    else one.pose = move(one.pose ?? {})
  }
  for (const key of groups) set.groups![key]!.pose = move(set.groups![key]!.pose ?? {})
}
