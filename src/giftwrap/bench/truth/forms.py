"""Fifty seeded packs: soundness by rays, volumes by slicing, walls by rays."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

import numpy as np

from giftwrap.bench.figure import Figure
from giftwrap.core.errors import PackError
from giftwrap.core.form.finishes import finish_named
from giftwrap.core.form.tests.solids import closed_solids, out_of_order, walls_by_rays
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.solids import kernel_solid
from giftwrap.core.model import (
    Body,
    Contents,
    Oval,
    Pack,
    Polygon,
    Rectangle,
    Round,
    SectionMark,
    Squircle,
)
from giftwrap.core.model.body import Section
from giftwrap.core.tests.samples import profile, vessel_pack
from giftwrap.core.things.facts import pack_facts
from giftwrap.core.things.vessel import VesselShape, shape_vessel

PACKS, SLICES, RAYS = 50, 200, 2000
SECTIONS = ("round", "round", "oval", "square", "squircle", "polygon")


def run() -> Iterator[Figure]:
    """The worst of fifty, and how many drawn ones had to be drawn again."""
    rng = np.random.default_rng(50)
    order, contents, weights, walls = [], [], [], []
    refused = 0
    while len(order) < PACKS:
        try:
            shape = shape_vessel(_drawn(rng))
        except PackError:
            refused += 1
            continue
        solids = closed_solids(shape)
        facts = pack_facts(shape)
        order.append(max(out_of_order(mesh, rays=RAYS) for mesh in solids.values()))
        told = facts.contents_ml or 1.0
        contents.append(abs(_sliced_ml(solids["contents"], shape) / told - 1))
        wall_ml = facts.body_g / shape.pack.form.body.material.density
        weights.append(abs(_sliced_ml(solids["body"], shape) / wall_ml - 1))
        walls += _walls(shape)
    yield Figure("truth: fifty packs, drawn and refused before", refused, "", None)
    yield Figure("truth: fifty packs, rays out of order, worst", 100 * max(order), "%", 0.1)
    yield Figure("truth: fifty packs, contents told over sliced, worst", 100 * max(contents), "% off", 0.2)
    yield Figure("truth: fifty packs, wall told over sliced, worst", 100 * max(weights), "% off", 0.2)
    wall = 100 * float(np.abs(np.array(walls) - 1).max())
    yield Figure("truth: fifty packs, upright wall by rays, worst", wall, "% off", 0.5)


def _drawn(rng: np.random.Generator) -> Pack:
    """A tumbler, a jar with a shoulder or a bottle with a neck, of any section; straight from 0.3 to 0.5
    of its height."""
    radius, wall = rng.uniform(14, 48), rng.uniform(0.6, 3.2)
    tall = radius * rng.uniform(1.6, 4.5)
    heel = min(rng.uniform(0.5, 8), radius / 3)
    kind = rng.choice(["tumbler", "jar", "bottle"])
    shoulder = (radius, tall * 0.7, radius * rng.uniform(0.1, 0.4))
    corners: list[tuple[float, ...]] = [(radius, 0, heel), shoulder]
    if kind == "tumbler":
        corners[1] = (radius, tall)
    else:
        neck = radius * (0.8 if kind == "jar" else rng.uniform(0.3, 0.5))
        corners += [(neck, tall, 2.0), (neck, tall + max(neck, 14) * 1.2)]
    section = _section(rng)
    marks = [SectionMark(height=0, section=section)]
    if kind != "tumbler":
        marks = [SectionMark(height=tall * 0.6, section=section), SectionMark(height=tall, section=Round())]
    body = Body(
        profile=profile(*corners),
        sections=marks,
        wall_thickness=wall,
        base_thickness=wall * rng.uniform(1.3, 3),
        push_up=rng.choice([0.0, rng.uniform(0.5, radius / 6)]),
        finish=finish_named("28-400") if kind == "bottle" and rng.random() < 0.3 else None,
    )
    return vessel_pack(body=body, contents=Contents(fill_height=tall * rng.uniform(0.35, 0.65)))


def _section(rng: np.random.Generator) -> Section:
    depth, corner = rng.uniform(0.5, 1), rng.uniform(0.1, 0.8)
    found: dict[str, Section] = {
        "round": Round(),
        "oval": Oval(depth_ratio=depth),
        "square": Rectangle(depth_ratio=depth, corner=corner),
        "squircle": Squircle(depth_ratio=depth, squareness=rng.uniform(2.5, 6)),
        "polygon": Polygon(sides=int(rng.integers(4, 10)), corner=corner),
    }
    return found[str(rng.choice(SECTIONS))]


def _sliced_ml(mesh: Mesh, shape: VesselShape) -> float:
    """Areas of level slices by manifold3d, added up by the midpoint rule between the heights at which they
    change much: the lowest and the highest place of the floor."""
    floor = shape.formed.inner.positions[..., 2].min()
    level, solid = shape.formed.cavity.level_floor + 1e-3, kernel_solid(mesh)
    ends = sorted({*(float(end(mesh.positions[:, 2])) for end in (np.min, np.max)), float(floor), level})
    total = 0.0
    for low, high in pairwise(ends):
        step = (high - low) / SLICES
        total += step * sum(solid.slice(low + (number + 0.5) * step).area() for number in range(SLICES))
    return total / 1000


def _walls(shape: VesselShape) -> tuple[float, float]:
    """The least and the most of the asked wall that rays from the outside straight inwards pass through,
    where it is upright; in corners whose rounding is smaller than it, a wall is thicker than asked."""
    body = shape.pack.form.body
    straight = body.profile[1].height * (1.0 if len(body.profile) == 2 else 0.6)
    low = max(0.6 * straight, shape.formed.floor_height + body.profile[0].rounding)
    thick = walls_by_rays(shape.formed, low, 0.95 * straight) / body.wall_thickness
    cornered = body.sections[0].section.kind in ("rectangle", "polygon")
    return float(thick.min()), 1.0 if cornered else float(thick.max())
