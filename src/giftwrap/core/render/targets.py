"""Light that leaves lamps and the surround towards what is clear, evenly over the boxes that hold it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Bool, Float
from numpy.typing import NDArray
from scipy.stats import qmc

from giftwrap.core.materials.optics import Optics, OpticsKind
from giftwrap.core.mesh.transform import points_moved
from giftwrap.core.render.memory import aligned
from giftwrap.core.render.surroundings import Surroundings
from giftwrap.core.scene.lamp import Lamp, leaving
from giftwrap.core.scene.scene import Instance
from giftwrap.core.stage.lights import in_beam

Numbers = NDArray[np.float64]
MOST_BOXES = 8
MARGIN = 0.05
"""mm about what is in a box."""
NEAR_ENOUGH = 2e4
"""Light from further away begins so many mm before what it is cast at."""


@dataclass(frozen=True)
class Boxes:
    """(n, 3) lowest and highest corners, mm."""

    low: Numbers
    high: Numbers

    @classmethod
    def about_clear(cls, instances: Sequence[Instance]) -> Boxes:
        """About all that light goes through without being spread: one for each thing, or for things that are
        close to each other when there are many."""
        pairs = []
        for instance in instances:
            corners = [
                mesh.positions[np.unique(mesh.faces)]
                for mesh, surface in zip(instance.meshes, instance.surfaces, strict=True)
                if _is_clear(surface.optics)
            ]
            if corners:
                points = points_moved(np.concatenate(corners), instance.pose)
                pairs.append((points.min(axis=0) - MARGIN, points.max(axis=0) + MARGIN))
        return cls.few(pairs)

    @classmethod
    def few(cls, pairs: Sequence[tuple[Numbers, Numbers]]) -> Boxes:
        """Those that grow least as one are put together until they are few enough."""
        low, high = np.moveaxis(np.array(pairs).reshape(-1, 2, 3), 1, 0)
        while len(low) > MOST_BOXES:
            lowest, highest = np.minimum(low[:, None], low[None]), np.maximum(high[:, None], high[None])
            grown = _half_surface(highest - lowest)
            own = _half_surface(high - low)
            grown -= own[:, None] + own[None]
            grown[np.diag_indices(len(low))] = np.inf
            i, j = np.unravel_index(grown.argmin(), grown.shape)
            rest = np.delete(np.arange(len(low)), [i, j])
            low = np.concatenate([low[rest], lowest[i, j][None]])
            high = np.concatenate([high[rest], highest[i, j][None]])
        return cls(low, high)

    def __len__(self) -> int:
        return len(self.low)

    @property
    def faces(self) -> tuple[Numbers, Numbers]:
        """(n, 2, 3): of the low and the high face across each axis, its area in mm² and where it is."""
        size = self.high - self.low
        areas = np.stack([size[:, 1] * size[:, 2], size[:, 2] * size[:, 0], size[:, 0] * size[:, 1]], axis=1)
        return np.repeat(areas[:, None], 2, axis=1), np.stack([self.low, self.high], axis=1)


def _is_clear(optics: Optics) -> bool:
    """Whether light goes through it without being spread, at least in places."""
    return optics.kind == OpticsKind.CLEAR and (optics.alpha == 0 or optics.texels is not None)


def _half_surface(size: Numbers) -> Numbers:
    """mm² of three faces of boxes of sizes (…, 3)."""
    x, y, z = np.moveaxis(size, -1, 0)
    return np.asarray(x * y + y * z + z * x)


@dataclass(frozen=True)
class CastRays:
    """Light on its way to a target: (n, 3) where and which way, and what it carries, radiance times mm² times
    steradians in each colour."""

    origins: Numbers
    directions: Numbers
    flux: Numbers


def rays_from(lamp: Lamp, boxes: Boxes, count: int, seed: int) -> CastRays:
    """Light of a lamp, evenly over it and over the faces of boxes that it sees; count is a power of two."""
    u = qmc.Sobol(5, rng=seed).random(count)
    leaves = leaving(lamp, u[:, :2])
    origins = leaves.origins
    areas, planes = boxes.faces
    middles = (boxes.low + boxes.high) / 2
    before = np.stack([planes[:, 0] - origins[:, None], origins[:, None] - planes[:, 1]], axis=2)
    away = np.linalg.norm(middles - origins[:, None], axis=2)[..., None, None]
    seen = areas * np.maximum(before, 0) / np.maximum(away, 1e-9) ** 3  # (n, boxes, 2, 3)
    within = (before.max(axis=(2, 3)) <= 0).any(axis=1)
    ways = _on_faces(boxes, seen, u) - origins
    far = np.linalg.norm(ways, axis=1)
    directions = ways / np.maximum(far, 1e-12)[:, None]
    cosine, turn = 1 - 2 * u[:, 2], 2 * np.pi * u[:, 3]
    sine = np.sqrt(np.maximum(1 - cosine**2, 0))
    anywhere = np.stack([sine * np.cos(turn), sine * np.sin(turn), cosine], axis=1)
    directions[within] = anywhere[within]
    density = np.full(count, 1 / (4 * np.pi))
    density[~within] = _density(boxes, origins[~within], directions[~within], seen[~within])
    facing = np.einsum("nd,nd->n", directions, leaves.normals)
    bright = np.maximum(facing, 0) * in_beam(facing, lamp.beam) * leaves.area
    flux = leaves.radiance * (bright / np.maximum(density, 1e-30) / count)[:, None]
    ahead = np.where(within, 0.01, np.maximum(far - NEAR_ENOUGH, 0.01))
    return CastRays(origins + ahead[:, None] * directions, directions, flux)


def _density(boxes: Boxes, origins: Numbers, directions: Numbers, seen: Numbers) -> Numbers:
    """(n,) per steradian, with which rays go to places on faces."""
    areas, _ = boxes.faces
    enters, met, axis = _met(boxes, origins, directions)
    side = (np.take_along_axis(directions[:, None], axis[..., None], axis=2)[..., 0] < 0).astype(int)
    rows, number = np.arange(len(origins))[:, None], np.arange(len(boxes))[None]
    chance = seen[rows, number, side, axis] / np.maximum(seen.sum(axis=(1, 2, 3)), 1e-300)[:, None]
    cosine = np.abs(np.take_along_axis(directions[:, None], axis[..., None], axis=2)[..., 0])
    each = chance / areas[number, side, axis] * enters**2 / np.maximum(cosine, 1e-12)
    return np.asarray(np.where(met, each, 0).sum(axis=1))


def _met(
    boxes: Boxes, origins: Numbers, directions: Numbers
) -> tuple[Numbers, NDArray[np.bool_], NDArray[np.int64]]:
    """(n, boxes) how many mm ahead rays enter boxes, whether they do, and across which axis."""
    safe = np.where(np.abs(directions) > 1e-12, directions, 1e-12)[:, None]
    one, other = (boxes.low - origins[:, None]) / safe, (boxes.high - origins[:, None]) / safe
    begins, ends = np.minimum(one, other), np.maximum(one, other)
    enters, axis = begins.max(axis=2), begins.argmax(axis=2)
    slack = 1e-9 * np.maximum(np.abs(enters), 1)
    return enters, (enters <= ends.min(axis=2) + slack) & (enters > 0), axis


def rays_around(around: Surroundings, boxes: Boxes, count: int, seed: int, *, most: float) -> CastRays:
    """Light of a surround beyond a radiance in its brightest colour, evenly over boxes as it sees them."""
    u = qmc.Sobol(5, rng=seed).random(count)
    everywhere = dr.full(Bool, True, count)
    looked = around.chosen(Array2f(*(aligned(Float, values) for values in u[:, :2].T)), everywhere)
    shines = around.radiance(looked, everywhere)
    density = around.density(looked, everywhere)
    dr.eval(looked, shines, density)
    towards, radiance = np.float64(looked.numpy().T), np.float64(shines.numpy().T)
    radiance *= (1 - np.minimum(1, most / np.maximum(radiance.max(axis=1), 1e-30)))[:, None]
    directions = -towards / np.linalg.norm(towards, axis=1, keepdims=True)
    areas, _ = boxes.faces
    facing = np.stack([np.maximum(directions, 0), np.maximum(-directions, 0)], axis=1)
    seen = areas * facing[:, None]
    places = _on_faces(boxes, seen, u)
    met = _met(boxes, places - NEAR_ENOUGH * directions, directions)[1].sum(axis=1)
    wide = seen.sum(axis=(1, 2, 3)) / np.maximum(met, 1)
    flux = radiance * (wide / np.maximum(density.numpy(), 1e-30) / count)[:, None]
    return CastRays(places - NEAR_ENOUGH * directions, directions, flux)


def _on_faces(boxes: Boxes, seen: Numbers, u: Numbers) -> Numbers:
    """(n, 3) places on faces of boxes, by how much is seen of each."""
    count = len(seen)
    ends = np.cumsum(seen.reshape(count, -1), axis=1)
    at = (ends < u[:, 4:] * ends[:, -1:]).sum(axis=1)
    box, side, axis = np.unravel_index(np.minimum(at, ends.shape[1] - 1), seen.shape[1:])
    share = u[:, [2, 3, 3]]
    share[:, 1] = np.where(axis == 0, u[:, 2], u[:, 3])
    share[np.arange(count), axis] = side
    return np.asarray(boxes.low[box] + share * (boxes.high - boxes.low)[box])
