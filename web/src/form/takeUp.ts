import type { Pack } from '@/api/client'

/** A starting pack taken up in place of another, with the artwork that was on it fitted to the new panel. */
export function takeUp(before: Pack, start: Pack): Pack {
  const taken = JSON.parse(JSON.stringify(start)) as Pack
  const [old, fresh] = [before.panels?.[0], taken.panels?.[0]]
  if (old && fresh && old.placements?.length) {
    const scale = Math.min(fresh.width / old.width, fresh.height / old.height)
    const fit = (v: number) => Number((v * scale).toFixed(2))
    const [dx, dy] = [(fresh.width - old.width * scale) / 2, (fresh.height - old.height * scale) / 2]
    fresh.stock = old.stock
    fresh.placements = old.placements.map((p) => ({
      ...p,
      x: Number((fit(p.x ?? 0) + dx).toFixed(2)),
      y: Number((fit(p.y ?? 0) + dy).toFixed(2)),
      width: fit(p.width),
    }))
  }
  if (taken.form.kind === 'vessel' && before.form.kind === 'vessel') taken.form.tracing = before.form.tracing ?? null
  return taken
}
