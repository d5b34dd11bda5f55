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
from drjit.llvm.ad import Array3f, Bool, Float, UInt32
from numpy.typing import NDArray
from scipy.stats import qmc

from giftwrap.core.materials.optics import AIR, Medium, Optics, OpticsKind
from giftwrap.core.render.casting import cast_light
from giftwrap.core.render.emitters import opaque3
from giftwrap.core.render.geometry import Geometry
from giftwrap.core.render.irradiance import MOST_TARGETS, Grid, KeptLight, Numbers, Target
from giftwrap.core.render.lighting import Lighting
from giftwrap.core.render.memory import aligned
from giftwrap.core.render.tables import Appearance
from giftwrap.core.render.transport import Lens, gather_light
from giftwrap.core.scene.lamp import Lamp, leaving
from giftwrap.core.scene.scene import Instance
from giftwrap.core.stage.lights import in_beam

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
LEAST_PLACES = 256
PER_CELL = 24
"""Places that a cube should have, about."""
FINE = 4
"""By how much finer than cubes areas are told."""
NEAR_ENOUGH = 2e4
"""Light from further away begins so many mm before what it is cast at."""
MARGIN = 1.02
"""Of balls about what light is cast at."""


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
    targets : balls about the glass that they are behind
    """

    corners: Numbers
    media: NDArray[np.uint32]
    wander: float
    targets: list[Target]

    @cached_property
    def areas(self) -> Numbers:
        """mm²."""
        a, b, c = np.moveaxis(self.corners, 1, 0)
        sizes: Numbers = np.linalg.norm(np.cross(b - a, c - a), axis=1) / 2
        return sizes


def body_of(instances: Sequence[Instance], media: dict[Medium, int]) -> Body | None:
    """The cloudy bodies that touch something clear; None where there are none."""
    corners, numbers, wander, targets = [], [], np.inf, []
    for instance in instances:
        behind = {s.optics.back for s in instance.surfaces if _is_behind_glass(s.optics)}
        if not behind:
            continue
        of_it = []
        for mesh, surface in zip(instance.meshes, instance.surfaces, strict=True):
            optics, points = surface.optics, mesh.positions @ instance.pose[:3, :3].T + instance.pose[:3, 3]
            if optics.kind == OpticsKind.CLOUDY and optics.back in behind:
                corners.append(points[mesh.faces])
                numbers.append(np.full(len(mesh.faces), media[optics.back], np.uint32))
                wander = min(wander, optics.back.mean_free_path)
            if optics.kind in (OpticsKind.CLEAR, OpticsKind.CLOUDY):
                of_it.append(points)
        targets.append(_ball(np.concatenate(of_it)))
    if not corners:
        return None
    return Body(np.concatenate(corners), np.concatenate(numbers), wander, _few(targets))


def _is_behind_glass(optics: Optics) -> bool:
    if optics.kind != OpticsKind.CLOUDY or optics.back.mean_free_path == 0:
        return False
    return optics.front != AIR and optics.front.mean_free_path == 0


def _ball(points: Numbers) -> Target:
    middle = (points.min(axis=0) + points.max(axis=0)) / 2
    return Target(middle, MARGIN * float(np.linalg.norm(points - middle, axis=1).max()))


def _few(balls: list[Target]) -> list[Target]:
    """Balls, those next to each other as one until they are few enough."""
    while len(balls) > MOST_TARGETS:
        middles = np.array([ball.middle for ball in balls])
        apart = np.linalg.norm(middles[:, None] - middles[None], axis=2) + 1e9 * np.eye(len(balls))
        i, j = (int(n) for n in np.unravel_index(apart.argmin(), apart.shape))
        one, other = balls[i], balls[j]
        way, between = other.middle - one.middle, float(apart[i, j])
        radius = max((one.radius + between + other.radius) / 2, one.radius, other.radius)
        middle = one.middle + way / max(between, 1e-9) * min(max(radius - one.radius, 0), between)
        balls = [ball for k, ball in enumerate(balls) if k not in (i, j)] + [Target(middle, radius)]
    return balls


def places_on(body: Body, count: int, rng: np.random.Generator) -> Places:
    """Places spread evenly over all of it."""
    areas = body.areas
    ends = np.cumsum(areas)
    at = (np.arange(count) + rng.random(count)) / count * ends[-1]
    chosen = np.minimum(np.searchsorted(ends, at), len(ends) - 1)
    u, v = np.sqrt(rng.random(count)), rng.random(count)
    shares = np.stack([1 - u, u * (1 - v), u * v], axis=1)
    corners = body.corners[chosen]
    crossed = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals = crossed / np.maximum(np.linalg.norm(crossed, axis=1, keepdims=True), 1e-12)
    return Places(np.einsum("nk,nkd->nd", shares, corners), normals, body.media[chosen])


def area_points(body: Body, fine: float) -> tuple[Numbers, Numbers]:
    """(n, 3) the middles of pieces no longer than about `fine` mm that make up all of it; (n,) their mm²."""
    steps = np.ceil(np.sqrt(2 * body.areas) / fine).astype(int)
    points, sizes = [], []
    for step in np.unique(steps[body.areas > 0]):
        alike = (steps == step) & (body.areas > 0)
        own = body.corners[alike]
        i, j = (n.ravel() for n in np.meshgrid(np.arange(step), np.arange(step)))
        up, down = i + j < step, i + j < step - 1
        u = np.concatenate([i[up] + 1 / 3, i[down] + 2 / 3]) / step
        v = np.concatenate([j[up] + 1 / 3, j[down] + 2 / 3]) / step
        shares = np.stack([1 - u - v, u, v], axis=1)
        points.append(np.einsum("kc,ncd->nkd", shares, own).reshape(-1, 3))
        sizes.append(np.repeat(body.areas[alike] / step**2, step**2))
    return np.concatenate(points), np.concatenate(sizes)


@dataclass(frozen=True)
class CastRays:
    """Light that leaves a lamp towards a target: (n, 3) where and which way, and what it carries, radiance
    times mm² times steradians in each colour."""

    origins: Numbers
    directions: Numbers
    flux: Numbers


def rays_from(lamp: Lamp, targets: Sequence[Target], count: int, seed: int) -> CastRays:
    """Light of a lamp, evenly over it and over the cones in which it sees its targets."""
    u = qmc.Sobol(5, rng=seed).random(count)
    leaves = leaving(lamp, u[:, :2])
    origins, normals = leaves.origins, leaves.normals
    chosen = np.minimum((u[:, 4] * len(targets)).astype(int), len(targets) - 1)
    middles, radii = np.array([t.middle for t in targets]), np.array([t.radius for t in targets])
    ways = middles[None] - origins[:, None]
    far = np.linalg.norm(ways, axis=2)
    ways /= np.maximum(far[..., None], 1e-9)
    least = np.where(far > radii, np.sqrt(np.maximum(1 - (radii / np.maximum(far, 1e-9)) ** 2, 0)), -1.0)
    own, cosine = ways[np.arange(count), chosen], 1 - u[:, 2] * (1 - least[np.arange(count), chosen])
    sine, turn = np.sqrt(np.maximum(1 - cosine**2, 0)), 2 * np.pi * u[:, 3]
    across = np.cross(own, np.where(np.abs(own[:, 2:]) < 0.9, [[0.0, 0.0, 1.0]], [[1.0, 0.0, 0.0]]))
    across /= np.linalg.norm(across, axis=1, keepdims=True)
    up = np.cross(own, across)
    directions = cosine[:, None] * own + (sine * np.cos(turn))[:, None] * across
    directions += (sine * np.sin(turn))[:, None] * up
    seen = np.einsum("nd,ntd->nt", directions, ways) >= least - 1e-9
    density = (seen / (2 * np.pi * (1 - least))).sum(axis=1) / len(targets)
    facing = np.einsum("nd,nd->n", directions, normals)
    bright = np.maximum(facing, 0) * in_beam(facing, lamp.beam) * leaves.area
    flux = leaves.radiance * (bright / np.maximum(density, 1e-12) / count)[:, None]
    ahead = np.maximum(far[np.arange(count), chosen] - NEAR_ENOUGH, 0.01)
    return CastRays(origins + ahead[:, None] * directions, directions, flux)


@dataclass(frozen=True)
class Fallen:
    """Light of lamps that landed: (n, 3) mm where, (n, 3) radiance times mm², (n,) the lamps' slots, and (n,)
    the series of samples that it is for."""

    points: Numbers
    values: NDArray[np.float32]
    slots: NDArray[np.int64]
    series: NDArray[np.int64]


@dataclass(frozen=True)
class Stage:
    """A scene as it is loaded into the light engine."""

    geometry: Geometry
    appearance: Appearance
    lighting: Lighting
    lamps: Sequence[Lamp]
    firefly_limit: float

    def gathered(self, places: Places, kept: KeptLight, seed: int) -> NDArray[np.float32]:
        """(n, slots, 3) radiance that each lamp and the surround bring out of places, by what is kept."""
        count = len(places.points)
        with dr.suspend_grad():
            found = gather_light(
                self.geometry,
                self.appearance,
                self.lighting,
                _lens_of(places),
                aligned(UInt32, np.arange(count)),
                kept=kept,
                samples=aligned(UInt32, np.full(count, SAMPLES)),
                begin=aligned(UInt32, np.zeros(count)),
                seed=dr.opaque(UInt32, seed),
                firefly_limit=dr.opaque(Float, self.firefly_limit),
            )
            dr.eval(found)
        light = [slot.numpy().T for slot in found.light[:-1]]
        return np.asarray(np.stack(light, axis=1) / SAMPLES, np.float32)

    def cast(self, targets: Sequence[Target], count: int, seed: int) -> Fallen:
        """Light of the lamps on what is behind glass, by about so many rays."""
        each = 2 ** int(np.log2(max(count / max(2 * len(self.lamps), 1), 64)))
        found = [_nothing_fell()]
        for slot, lamp in enumerate(self.lamps):
            for series in range(2):
                own = 2 * (64 * seed + slot) + series
                rays = rays_from(lamp, targets, each, own)
                with dr.suspend_grad():
                    landed = cast_light(
                        self.geometry,
                        self.appearance,
                        self.lighting,
                        _aligned3(rays.origins),
                        _aligned3(rays.directions),
                        slot=aligned(UInt32, np.full(each, slot)),
                        flux=_aligned3(rays.flux),
                        seed=dr.opaque(UInt32, own),
                    )
                    dr.eval(landed)
                here = np.flatnonzero(landed.lands.numpy())
                points, values = (v.numpy().T[here] for v in (landed.place, landed.value))
                found.append(Fallen(points, values, np.full(len(here), slot), np.full(len(here), series)))
        parts = zip(*((one.points, one.values, one.slots, one.series) for one in found), strict=True)
        return Fallen(*map(np.concatenate, parts))


def _nothing_fell() -> Fallen:
    return Fallen(
        np.zeros((0, 3)), np.zeros((0, 3), np.float32), np.zeros(0, np.int64), np.zeros(0, np.int64)
    )


def _lens_of(places: Places) -> Lens:
    none, numbers = opaque3(np.zeros(3)), [dr.opaque(Float, 1.0) for _ in range(13)]
    media = places.media[:, None]
    table = np.concatenate([places.points, media, places.normals, 0 * media], axis=1)
    return Lens(
        *(none, none, none, none, *numbers, dr.opaque(Bool, True), aligned(Float, table)),
    )


def _aligned3(values: Numbers) -> Array3f:
    """(n, 3) numbers as kernels read them."""
    return Array3f(*(aligned(Float, values[:, k]) for k in range(3)))


def kept_light(body: Body, stage: Stage, *, seed: int) -> KeptLight:
    """The light on a body, in stages, each by more paths than the one before."""
    whole = float(body.areas.sum())
    fallen = stage.cast(body.targets, int(np.clip(CAST * whole, *CAST_IN_ALL)), seed)
    paths = float(np.clip(PATHS * whole, *PATHS_IN_ALL))
    kept = KeptLight(targets=body.targets)
    for number, share in enumerate(STAGES):
        rng = np.random.default_rng(len(STAGES) * seed + number)
        places = places_on(body, max(int(share * paths) // SAMPLES, LEAST_PLACES), rng)
        light = stage.gathered(places, kept, len(STAGES) * seed + number)
        kept = _laid_out(body, places, light, fallen, rng)
    return kept


def _laid_out(
    body: Body, places: Places, light: NDArray[np.float32], fallen: Fallen, rng: np.random.Generator
) -> KeptLight:
    """What was gathered from places, and what fell, by cubes."""
    count, slots = light.shape[:2]
    cell = max(0.5 * body.wander, float(np.sqrt(PER_CELL * body.areas.sum() / count)))
    grid = Grid.about(body.corners.reshape(-1, 3), cell)
    spread, sizes = area_points(body, grid.cell / FINE)
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
    return KeptLight(grid, known[told], sums[told], body.targets)


def _about(grid: Grid, points: Numbers, copies: int, rng: np.random.Generator) -> NDArray[np.int64]:
    """(n · copies,) numbers of cubes about places."""
    about = points[:, None] + grid.cell * (rng.random((len(points), copies, 3)) - 0.5)
    return grid.numbers(about.reshape(-1, 3))


def _rows_of(
    known: NDArray[np.int64], numbers: NDArray[np.int64], copies: int
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Of the numbers that are known: which they are, and what they are copies of."""
    at = np.minimum(np.searchsorted(known, numbers), len(known) - 1)
    here = np.flatnonzero(known[at] == numbers)
    return at[here], here // copies
