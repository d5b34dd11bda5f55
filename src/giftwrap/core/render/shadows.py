"""Whether light that was aimed at arrives: what is in its way, and what of that lets it pass."""

from __future__ import annotations

from typing import Any

import drjit as dr
from drjit.llvm.ad import Array3f, Bool, Float, UInt32

from giftwrap.core.render.arriving import OFFSET
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.geometry import Geometry
from giftwrap.core.render.sequence import chance_of
from giftwrap.core.render.tables import Appearance

MAX_PASSED = 64
"""Places where nothing is that a ray of shadow passes."""


@dr.syntax
def shaded_light(
    geometry: Geometry,
    appearance: Appearance,
    start: Array3f,
    direction: Array3f,
    distance: Float,
    *,
    value: Array3f,
    active: Bool,
    numbers: tuple[UInt32, UInt32, UInt32],
) -> tuple[Bool, Array3f]:
    """Whether something is within a distance in mm; and light from there in the colours of what it passes.

    numbers : the pixel's key, the sample and the step, by which chance decides what is there
    """
    engine: Any = light_engine()
    key, sample, step = numbers
    shaded = geometry.scene.ray_test(
        engine.Ray3f(start, direction, distance, 0.0, []), coherent=False, active=active
    )
    looks = shaded & appearance.texels.see_through
    spot, left, passed = Array3f(start), Float(distance), UInt32(0)
    while looks:
        met = geometry.scene.ray_intersect_preliminary(
            engine.Ray3f(spot, direction, left, 0.0, []), coherent=False, active=looks
        )
        stands = looks & met.is_valid()
        there = geometry.triangle(met, stands)
        row = appearance.row(there.surface, stands)
        texel = appearance.texels.at(row.texels, there.uv, stands)
        gone = stands & (chance_of(key, sample, step + passed + 1) >= texel.presence)
        on = (1 + dr.max(dr.abs(there.place))) * OFFSET
        value = dr.select(gone, value * texel.passing, value)
        left = dr.select(gone, left - met.t - on, left)
        spot = dr.select(gone, there.place + direction * on, spot)
        passed += 1
        shaded = dr.select(looks, stands & ~gone, shaded)
        looks = gone & (left > 0) & (passed < MAX_PASSED)
    return shaded, value


@dr.syntax
def shades_itself(
    geometry: Geometry,
    appearance: Appearance,
    start: Array3f,
    direction: Array3f,
    distance: Float,
    *,
    active: Bool,
) -> Bool:
    """Whether what is first in the way of a catcher is a catcher: itself."""
    engine: Any = light_engine()
    found = active & False
    if active:
        met = geometry.scene.ray_intersect_preliminary(
            engine.Ray3f(start, direction, distance, 0.0, []), coherent=False, active=active
        )
        stands = active & met.is_valid()
        there = geometry.triangle(met, stands)
        found = stands & appearance.row(there.surface, stands).catcher
    return found
