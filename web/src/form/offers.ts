import type { Made, Material, Pack } from '@/api/client'
import type { Offer } from '@/composables/materialInHand'
import type { PaletteUse } from '@/composables/palette'
import { BOARD, faceOf, kindsOf, materialOf, panelOf, setMaterial } from './materials'

/** What somebody calls a part of a pack. */
export const titleOf = (pack: Pack, part: string): string =>
  pack.parts?.[part]?.title || panelOf(part) || part.replace(/^label-(\d+)$/, 'label $1').replace('closure', 'cap')

const same = (one: Made | null, other: Made | null) => JSON.stringify(one) === JSON.stringify(other)

/** Parts of a pack that are made of the same as one, that one among them. */
export function madeAlike(pack: Pack, parts: readonly string[], part: string): string[] {
  const own = materialOf(pack, part)
  const panel = panelOf(part)
  if (panel !== null && pack.form.kind === 'carton') {
    const faces = pack.form.faces ?? {}
    const alike = Object.keys(faces).filter((key) => same(faces[key] as Made, own))
    return [...(same(own, materialOf(pack, BOARD)) ? [BOARD] : []), ...alike.map(faceOf)]
  }
  return own ? parts.filter((one) => same(materialOf(pack, one), own)) : []
}

/** Say what a material would do to a part that it is held over; null where it would do nothing. */
export function answerTo(offer: Offer, pack: Pack, parts: readonly string[], part: string): string[] | null {
  const title = titleOf(pack, part)
  const kinds = kindsOf(pack, part)
  if (!kinds.length) offer.says = 'Nothing to change here'
  else if (pack.parts?.[part]?.locked) offer.says = `${title} is locked`
  else if (!kinds.includes(offer.material.kind)) offer.says = `${title} cannot be ${offer.material.kind}`
  else {
    const alike = madeAlike(pack, parts, part).filter((one) => !pack.parts?.[one]?.locked)
    const chosen = offer.alike ? alike : [part]
    offer.says = chosen.map((one) => titleOf(pack, one)).join(', ')
    if (!offer.alike && alike.some((one) => one !== part)) offer.says += ' · Shift: all that are alike'
    return chosen
  }
  return null
}

/** Make parts of a material that was let go over one of them. An entry of the palette changes with all alike. */
export function takeOffer(
  offer: Offer,
  pack: Pack,
  part: string,
  chosen: string[],
  palette: PaletteUse | null,
  edit: (change: (document: Pack) => void) => void,
): void {
  const own = materialOf(pack, part)
  const material = JSON.parse(JSON.stringify(offer.material)) as Material
  if (offer.alike && own?.kind === 'linked' && palette) palette.change(own.entry, material)
  else edit((d) => chosen.forEach((one) => setMaterial(d, one, material)))
}
