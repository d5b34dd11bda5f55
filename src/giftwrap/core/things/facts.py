"""What a designer reads off a pack: capacities, levels, sizes and weights."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from giftwrap.core.form.volume import MM3_PER_ML, mesh_ml
from giftwrap.core.model.material import plain
from giftwrap.core.things.vessel import VesselShape
from giftwrap.core.wrap.laid import Laid
from giftwrap.core.wrap.sleeve import SleeveSheet
from giftwrap.core.wrap.wrapped import WrappedSheet

CREASES = 0.02
"""From this share of stretch paper creases (common practice)."""
DENSITIES: dict[str, float] = {
    "soda-lime glass": 2.5,
    "borosilicate glass": 2.23,
    "PET": 1.38,
    "HDPE": 0.95,
    "LDPE": 0.92,
    "PP": 0.905,
    "PS": 1.05,
    "PMMA": 1.18,
    "aluminium": 2.70,
    "tinplate": 7.85,
    "cork": 0.2,
    "water": 0.998,
    "ethanol 40 %": 0.948,
    "olive oil": 0.913,
    "glycerol": 1.261,
}
"""g/cm³ at 20 °C, as in handbooks of chemistry and physics and of plastics; from memory."""


@dataclass(frozen=True)
class PackFacts:
    """Volumes in ml, lengths in mm, weights in g. `headspace_ml` is what is empty up to the brim.

    depth : from front to back; `diameter` is the width seen from the front
    empty_g : body and closure; filled_g : with the contents
    """

    height: float
    diameter: float
    depth: float
    rim_height: float
    floor_height: float
    least_fill: float
    brimful_ml: float
    outer_ml: float
    contents_ml: float | None
    headspace_ml: float | None
    nominal_fill_height: float | None
    body_g: float
    closure_g: float
    contents_g: float
    triangles: int
    cautions: tuple[str, ...]

    @property
    def empty_g(self) -> float:
        """Body and closure."""
        return self.body_g + self.closure_g

    @property
    def filled_g(self) -> float:
        """Body, closure and contents."""
        return self.empty_g + self.contents_g


def pack_facts(shape: VesselShape) -> PackFacts:
    """Read the facts off a shaped pack."""
    formed, vessel = shape.formed, shape.pack.vessel
    brimful = formed.brimful_ml
    contents = formed.volume_at(vessel.contents.fill_height) if vessel.contents else None
    density = plain(vessel.contents.material).density if vessel.contents else 0.0
    nominal = vessel.nominal_capacity_ml
    fits = nominal is not None and nominal <= brimful
    cautions = []
    if nominal is not None and not fits:
        cautions.append(f"The body holds {brimful:.1f} ml to the brim, less than the nominal {nominal:g} ml.")
    cautions += filter(None, map(_creasing, shape.sheets))
    heights = formed.outer.points[:, 1]
    outline = formed.loft.at(heights, formed.columns).points * formed.outer.points[None, :, :1]
    width, depth = (float(np.ptp(outline[..., k], axis=0).max()) for k in (0, 1))
    return PackFacts(
        height=shape.height,
        diameter=width,
        depth=depth,
        rim_height=formed.rim_height,
        floor_height=formed.floor_height,
        least_fill=formed.cavity.level_floor,
        brimful_ml=brimful,
        outer_ml=formed.outer_ml,
        contents_ml=contents,
        headspace_ml=None if contents is None else brimful - contents,
        nominal_fill_height=formed.height_for(nominal) if nominal is not None and fits else None,
        body_g=wall_ml(shape) * plain(vessel.body.material).density,
        closure_g=_closure_grams(shape),
        contents_g=contents * density if contents else 0.0,
        triangles=sum(len(piece.mesh.faces) for piece in shape.pieces),
        cautions=tuple(cautions),
    )


def _creasing(sheet: Laid) -> str | None:
    """What is said of a label that does not lie smooth."""
    name, most = sheet.panel.name, 100 * sheet.stretch.worst
    if isinstance(sheet, SleeveSheet):
        return None
    if isinstance(sheet, WrappedSheet):
        if sheet.narrows <= CREASES:
            return None
        how = f"changes radius by {100 * sheet.narrows:.0f} %"
        return f"The wall under “{name}” {how}: paper would crease there."
    if most <= 100 * CREASES:
        return None
    return f"“{name}” is stretched by up to {most:.0f} % where it lies: paper would crease there."


def wall_ml(shape: VesselShape) -> float:
    """What the wall of a body is made of: what lies between its outside and its inside, which is known
    exactly, and what rim, thread and relief add to them, by how they are drawn."""
    formed = shape.formed
    return formed.outer_ml - formed.brimful_ml + mesh_ml(*shape.wall) - formed.drawn_ml


def _closure_grams(shape: VesselShape) -> float:
    """Weight of a closure: its solids, and its tube by rings."""
    if not shape.built:
        return 0.0
    grams = sum(mesh_ml(solid.mesh) * solid.material.density for solid in shape.built.solids)
    tube = shape.built.tube
    if tube:
        section = np.pi * (tube.outer**2 - tube.inner**2)
        grams += float(np.trapezoid(section, tube.heights)) / MM3_PER_ML * tube.material.density
    return grams
