"""What the denoiser is told about each pixel: the colour and direction of the surface seen there.

Clear surfaces are looked through, refracting on the way, so that a label behind glass and liquid
guides the denoiser as well as one in front.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.film import Floats

MAX_CROSSINGS = 8
"""Interfaces a straight look through a filled bottle meets."""


def take_guides(
    scene: Any, sensor: Any, size: tuple[int, int], *, samples: int, seed: int
) -> tuple[Floats, Floats]:
    """Mean albedo and normal of a sensor's crop of `size` (width, height) px, each (h, w, 3)."""
    engine = light_engine()
    import drjit

    width, height = size
    count = width * height * samples
    sampler = engine.load_dict({"type": "independent"})
    sampler.seed(drjit.opaque(engine.UInt32, seed), count)  # as data, or each seed compiles anew
    pixel = drjit.arange(engine.UInt32, count) // samples
    corner = engine.Point2f(engine.Float(pixel % width), engine.Float(pixel // width))
    place = (corner + sampler.next_2d()) / engine.Point2f(width, height)
    first_ray, _ = sensor.sample_ray(0.0, 0.5, place, engine.Point2f(0.5))
    transmit = engine.BSDFContext()
    transmit.type_mask = engine.BSDFFlags.DeltaTransmission | engine.BSDFFlags.Null

    def look_on(*state: Any) -> Any:
        looking, ray, crossing, albedo, normal, sampler = state
        hit = scene.ray_intersect(ray, looking)
        bsdf = hit.bsdf(ray)
        looking = looking & hit.is_valid()
        clear = looking & engine.has_flag(bsdf.flags(), engine.BSDFFlags.DeltaTransmission)
        opaque = looking & ~clear
        albedo = drjit.select(opaque, bsdf.eval_diffuse_reflectance(hit, opaque), albedo)
        normal = drjit.select(looking, hit.sh_frame.n, normal)
        crossed, weight = bsdf.sample(transmit, hit, sampler.next_1d(clear), sampler.next_2d(clear), clear)
        looking = clear & (drjit.max(weight) > 0) & (crossing + 1 < MAX_CROSSINGS)
        ray = drjit.select(looking, hit.spawn_ray(hit.to_world(crossed.wo)), engine.Ray3f(ray))
        return looking, ray, crossing + 1, albedo, normal, sampler

    start = (
        drjit.full(engine.Bool, True, count),
        engine.Ray3f(first_ray),
        drjit.zeros(engine.UInt32, count),
        drjit.full(engine.Color3f, 1.0, count),
        drjit.zeros(engine.Normal3f, count),
        sampler,
    )
    _, _, _, albedo, normal, _ = drjit.while_loop(start, lambda looking, *_: looking, look_on)
    return _per_pixel(albedo, size, samples), _per_pixel(normal, size, samples)


def _per_pixel(values: Any, size: tuple[int, int], samples: int) -> Floats:
    """Average a (3, count) drjit vector over each pixel's samples."""
    width, height = size
    each = np.asarray(values, dtype=np.float32).T.reshape(height, width, samples, 3)
    mean: Floats = np.nan_to_num(each.mean(axis=2))
    return mean
