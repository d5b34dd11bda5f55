"""Gathering the light that falls on cloudy bodies behind glass.

Lamps are cast at the glass and land on the body (`casting`). What else comes, from the surround, from other
things and from the body itself, is gathered from places all over it by the same paths as pictures are; these
take what the stage before has kept where they come out of the body again.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import drjit as dr
import numpy as np
from drjit.llvm.ad import Bool, Float, UInt32
from numpy.typing import NDArray

from giftwrap.core.materials.optics import AIR, Medium, Optics, OpticsKind
from giftwrap.core.mesh.transform import points_moved
from giftwrap.core.mesh.triangles import areas_of, normals_of
from giftwrap.core.render.areas import area_points
from giftwrap.core.render.emitters import opaque3
from giftwrap.core.render.falling import fallen_layers
from giftwrap.core.render.irradiance import Grid, KeptLight, Layer, Numbers, rows_among
from giftwrap.core.render.landing import Fallen, Stage
from giftwrap.core.render.lens import Lens
from giftwrap.core.render.memory import aligned
from giftwrap.core.render.targets import Boxes
from giftwrap.core.render.transport import gather_light
from giftwrap.core.scene.scene import Instance

COPIES = 8
"""Cubes that a place is counted in, at random among those less than a cube away."""
SAMPLES = 8
"""Of each place: a power of two lies most evenly."""
STAGES = (0.02, 0.06, 0.25, 1.0)
"""Share of the last stage's paths that each follows."""
PATHS, PATHS_IN_ALL = 130.0, (50_000, 2_000_000)
CAST, CAST_IN_ALL = 250.0, (200_000, 4_000_000)
"""Paths of the last stage, and rays from lamps, for each mm², and how few and how many of them in all: places
of 1.6 mm are uncertain by about one and a half per cent then."""
CAST_A_PIXEL, CAST_AT_CLEAR = 0.5, (10_000, 2_000_000)
"""Rays from lamps at what is clear, for each pixel of a picture, and how few and how many of them."""
LEAST_PLACES = 256
PER_CELL = 24
"""Places that a cube should have, about."""
FINE = 4
"""By how much finer than cubes areas are told."""


@dataclass(frozen=True)
class Places:
    """Places on a body: (n, 3) mm where, (n, 3) which way is out, and (n,) the number of its medium."""

    points: Numbers
    normals: Numbers
    media: NDArray[np.uint32]


@dataclass(frozen=True)
class Body:
    """All triangles of cloudy bodies behind glass.

    corners : (n, 3, 3) mm, in the scene
    media : (n,) numbers of what they are the outside of
    wander : mm between scatterings where it is least
    """

    corners: Numbers
    media: NDArray[np.uint32]
    wander: float

    @cached_property
    def areas(self) -> Numbers:
        """mm²."""
        return areas_of(self.corners)


def body_of(instances: Sequence[Instance], media: dict[Medium, int]) -> Body | None:
    """The cloudy bodies that touch something clear; None where there are none."""
    corners, numbers, wander = [], [], np.inf
    for instance in instances:
        behind = {s.optics.back for s in instance.surfaces if _is_behind_glass(s.optics)}
        if not behind:
            continue
        for mesh, surface in zip(instance.meshes, instance.surfaces, strict=True):
            optics = surface.optics
            if optics.kind == OpticsKind.CLOUDY and optics.back in behind:
                corners.append(points_moved(mesh.positions, instance.pose)[mesh.faces])
                numbers.append(np.full(len(mesh.faces), media[optics.back], np.uint32))
                wander = min(wander, optics.back.mean_free_path)
    if not corners:
        return None
    return Body(np.concatenate(corners), np.concatenate(numbers), wander)


def _is_behind_glass(optics: Optics) -> bool:
    if optics.kind != OpticsKind.CLOUDY or optics.back.mean_free_path == 0:
        return False
    return optics.front != AIR and optics.front.mean_free_path == 0


def places_on(body: Body, count: int, rng: np.random.Generator) -> Places:
    """Places spread evenly over all of it."""
    areas = body.areas
    ends = np.cumsum(areas)
    at = (np.arange(count) + rng.random(count)) / count * ends[-1]
    chosen = np.minimum(np.searchsorted(ends, at), len(ends) - 1)
    u, v = np.sqrt(rng.random(count)), rng.random(count)
    shares = np.stack([1 - u, u * (1 - v), u * v], axis=1)
    corners = body.corners[chosen]
    return Places(np.einsum("nk,nkd->nd", shares, corners), normals_of(corners), body.media[chosen])


def gathered(stage: Stage, places: Places, kept: KeptLight, seed: int) -> NDArray[np.float32]:
    """(n, slots, 3) radiance that each lamp and the surround bring out of places, by what is kept."""
    count = len(places.points)
    with dr.suspend_grad():
        found = gather_light(
            stage.geometry,
            stage.appearance,
            stage.lighting,
            _lens_of(places),
            aligned(UInt32, np.arange(count)),
            kept=kept,
            samples=aligned(UInt32, np.full(count, SAMPLES)),
            begin=aligned(UInt32, np.zeros(count)),
            seed=dr.opaque(UInt32, seed),
            firefly_limit=dr.opaque(Float, stage.firefly_limit),
        )
        dr.eval(found)
    light = [slot.numpy().T for slot in found.light[:-1]]
    return np.asarray(np.stack(light, axis=1) / SAMPLES, np.float32)


def _lens_of(places: Places) -> Lens:
    none, numbers = opaque3(np.zeros(3)), [dr.opaque(Float, 1.0) for _ in range(13)]
    media = places.media[:, None]
    table = np.concatenate([places.points, media, places.normals, 0 * media], axis=1)
    return Lens(
        *(none, none, none, none, *numbers, dr.opaque(Bool, True), aligned(Float, table)),
    )


def kept_light(stage: Stage, instances: Sequence[Instance], *, pixels: int, seed: int) -> KeptLight:
    """Light through what is clear, where it falls on what is matt, and the light on cloudy bodies behind it:
    this in stages, each by more paths than the one before. Nothing is done where nothing is clear.
    """
    boxes = Boxes.about_clear(instances)
    if not len(boxes):
        return KeptLight()
    body = body_of(instances, stage.appearance.media)
    wanted = 0.0 if body is None else float(np.clip(CAST * body.areas.sum(), *CAST_IN_ALL))
    rays = max(wanted, float(np.clip(CAST_A_PIXEL * pixels, *CAST_AT_CLEAR)))
    landings = stage.cast(boxes, int(rays), seed)
    slots = stage.lighting.surround_slot + 1
    fallen, most = fallen_layers(instances, landings.matt, slots), stage.most_around
    kept = KeptLight((None, *fallen), most)
    if body is None:
        return kept
    paths = float(np.clip(PATHS * body.areas.sum(), *PATHS_IN_ALL))
    for number, share in enumerate(STAGES):
        rng = np.random.default_rng(len(STAGES) * seed + number)
        places = places_on(body, max(int(share * paths) // SAMPLES, LEAST_PLACES), rng)
        light = gathered(stage, places, kept, len(STAGES) * seed + number)
        kept = KeptLight((_laid_out(body, places, light, landings.bodies, rng), *fallen), most)
    return kept


def _laid_out(
    body: Body, places: Places, light: NDArray[np.float32], fallen: Fallen, rng: np.random.Generator
) -> Layer:
    """What was gathered from places, and what fell, by cubes."""
    count, slots = light.shape[:2]
    cell = max(0.5 * body.wander, float(np.sqrt(PER_CELL * body.areas.sum() / count)))
    grid = Grid.about(body.corners.reshape(-1, 3), cell)
    spread, sizes, _ = area_points(body.corners, grid.cell / FINE)
    known, rows = np.unique(_about(grid, spread, 2, rng), return_inverse=True)
    area = np.bincount(rows, np.repeat(sizes, 2) / 2, len(known))
    at, of = _rows_of(known, _about(grid, places.points, COPIES, rng), COPIES)
    row = 2 * at + of % 2
    counts = np.bincount(row, minlength=2 * len(known)).reshape(-1, 2)
    onto, from_ = _rows_of(known, _about(grid, fallen.points, 2, rng), 2)
    where = (2 * onto + fallen.series[from_]) * slots + fallen.slots[from_]
    sums = np.empty((len(known), 2, slots, 3), np.float32)
    for k in range(3):
        for slot in range(slots):
            own = np.bincount(row, light[of, slot, k], 2 * len(known)).reshape(-1, 2)
            sums[:, :, slot, k] = own / np.maximum(counts, 1)
        landed = np.bincount(where, fallen.values[from_, k] / 2, 2 * len(known) * slots)
        sums[..., k] += landed.reshape(-1, 2, slots) / np.maximum(area, 1e-9)[:, None, None]
    told = (counts > 0).all(axis=1)
    return Layer(grid, known[told], sums[told])


def _about(grid: Grid, points: Numbers, copies: int, rng: np.random.Generator) -> NDArray[np.int64]:
    """(n · copies,) numbers of cubes about places."""
    about = points[:, None] + grid.cell * (rng.random((len(points), copies, 3)) - 0.5)
    return grid.numbers(about.reshape(-1, 3))


def _rows_of(
    known: NDArray[np.int64], numbers: NDArray[np.int64], copies: int
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Of the numbers that are known: which they are, and what they are copies of."""
    rows = rows_among(known, numbers)
    here = np.flatnonzero(rows < len(known))
    return rows[here], here // copies
