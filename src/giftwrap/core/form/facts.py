"""What a designer reads off a pack: capacities, levels and sizes."""

from __future__ import annotations

from dataclasses import dataclass

from giftwrap.core.form.shape import Shape


@dataclass(frozen=True)
class PackFacts:
    """Volumes in ml, lengths in mm. `headspace_ml` is what is empty up to the brim."""

    height: float
    diameter: float
    rim_height: float
    floor_height: float
    brimful_ml: float
    contents_ml: float | None
    headspace_ml: float | None
    nominal_fill_height: float | None
    cautions: tuple[str, ...]


def pack_facts(shape: Shape) -> PackFacts:
    """Read the facts off a shaped pack."""
    vessel, pack = shape.vessel, shape.pack
    brimful = vessel.brimful_ml
    contents = vessel.volume_at(pack.contents.fill_height) if pack.contents else None
    nominal = pack.nominal_capacity_ml
    fits = nominal is not None and nominal <= brimful
    cautions = []
    if nominal is not None and not fits:
        cautions.append(f"The body holds {brimful:.1f} ml to the brim, less than the nominal {nominal:g} ml.")
    for sheet in shape.sheets:
        if sheet.stretch > 0.02:
            cautions.append(
                f"The wall under “{sheet.panel.name}” changes radius by {100 * sheet.stretch:.0f} %: "
                "paper would crease there."
            )
    return PackFacts(
        height=shape.height,
        diameter=2 * shape.radius,
        rim_height=vessel.rim_height,
        floor_height=vessel.floor_height,
        brimful_ml=brimful,
        contents_ml=contents,
        headspace_ml=None if contents is None else brimful - contents,
        nominal_fill_height=vessel.height_for(nominal) if nominal is not None and fits else None,
        cautions=tuple(cautions),
    )
