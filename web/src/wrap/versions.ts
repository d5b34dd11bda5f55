import type { Artwork, Palette } from '@/api/client'

/** The files that an artwork has been, and which is printed; `named` is the one that documents name. */
export interface Versions {
  named: string
  files: readonly string[]
  shown: string
}

/** What an artwork has been so far: only itself unless the palette says more. */
export function versionsOf(named: string, palette: Palette): Versions {
  const kept = palette.versions?.[named]
  return { named, files: kept?.files ?? [named], shown: kept?.shown ?? named }
}

/** The file that is printed for what a document names. */
export const shownOf = (
  named: string | undefined,
  palette: Palette,
  artwork: readonly Artwork[],
): Artwork | undefined =>
  named === undefined ? undefined : artwork.find((one) => one.sha256 === versionsOf(named, palette).shown)

/** Print another of its files everywhere; a new one comes last. */
export function show(palette: Palette, named: string, sha256: string): void {
  const { files } = versionsOf(named, palette)
  const all = files.includes(sha256) ? [...files] : [...files, sha256]
  palette.versions = { ...palette.versions, [named]: { files: all, shown: sha256 } }
}
