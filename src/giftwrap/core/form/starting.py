"""A pack to start from: a plain half-litre bottle."""

from __future__ import annotations

from giftwrap.core.model import Body, Clear, Closure, Contents, Corner, Opaque, Pack, Panel


def starting_pack() -> Pack:
    """A round bottle with a cap, filled, with an empty label ready for artwork."""
    profile = [
        Corner(radius=36, height=0, rounding=6),
        Corner(radius=36, height=150, rounding=24),
        Corner(radius=14, height=188, rounding=16),
        Corner(radius=14, height=228, rounding=0),
    ]
    return Pack(
        body=Body(profile=profile, wall_thickness=2.4, base_thickness=6),
        contents=Contents(fill_height=147, material=Clear(refractive_index=1.35, colour="#e7a13c", depth=60)),
        closure=Closure(height=22, material=Opaque(colour="#23262b", gloss=0.45)),
        panels=[Panel(from_base=26, width=110, height=90)],
        nominal_capacity_ml=500,
    )
