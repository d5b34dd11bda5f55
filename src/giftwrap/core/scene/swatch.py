"""What materials are shown on: a chip with a rounded edge, a flat face and a lens, leaning before a striped
card: what is clear shows the backdrop and the card through it."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache

import numpy as np

from giftwrap.core.form.skin import open_mesh
from giftwrap.core.materials.optics import Optics, Stance, Texels, material_optics, printed_optics
from giftwrap.core.materials.pictured import pictured
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.mesh.path import Array
from giftwrap.core.mesh.transform import shift
from giftwrap.core.model import Camera, EvenSurround, Opaque, PhotoSet, Softbox, Sweep
from giftwrap.core.model.material import Material
from giftwrap.core.scene.compile import backdrop_of, laid_over
from giftwrap.core.scene.lamps import lamps_of
from giftwrap.core.scene.scene import Instance, Scene, Surface
from giftwrap.core.scene.surrounding import surrounding_of
from giftwrap.core.things.thing import Extent

HALF, CORNER, THICK, EDGE = (22.0, 16.0), 7.0, 6.0, 1.9
"""Mm of the chip: half its sides, the radius of its corners, its thickness and the radius of its edge."""
LENS, LENS_RADIUS, LENS_HIGH = (6.0, 0.0), 9.5, 4.0
"""Where on the chip the lens stands, its radius and how high it rises."""
AROUND, ALONG, ACROSS = 32, 24, 12
"""Steps of a corner, of a side, and of a curve across."""
CARD, CARD_AT, STRIPE = (9.0, 44.0), (-12.0, 6.0), 3.0
"""Mm of the card behind the chip, where on it its middle is, and how wide its stripes are."""
CARD_PX = 12
STANCE = Stance(((1.0, 0, 0, 0), (0, 0, -1.0, 0), (0, 1.0, 0, HALF[1])), HALF[0])
"""The chip as a part: it stands up, its face to the front."""
INK, PAPER = (38, 36, 40), (244, 239, 228)
LEANS, GAP, BEHIND = 72.0, 0.3, 5.0
"""Degrees from lying that the chip stands up; mm above the floor, and from its back to the card."""
PICTURE_SET = PhotoSet(
    lights=[
        Softbox(name="Window", width=110, height=90, azimuth=-62, elevation=38, distance=150, power_w=0.22),
        Softbox(name="Strip", width=24, height=150, azimuth=74, elevation=30, distance=150, power_w=0.09),
        Softbox(name="Behind", width=120, height=50, azimuth=165, elevation=34, distance=170, power_w=0.14),
    ],
    sweep=Sweep(width=420, front=160, back=130, height=160, curve_radius=60),
    background="#d9d3c6",
    surround=EvenSurround(strength=0.25),
)
CAMERA = Camera(
    projection="perspective", lens_mm=87.0, distance=150.0, azimuth=14.0, height=48.0, aim_height=15.0
)


def swatch_scene(material: Material, files: Mapping[str, bytes] | None = None) -> Scene:
    """A chip of a material, lit.

    files : of its pictures, by SHA-256
    """
    extent = Extent((-HALF[0], -HALF[1], 0.0), (HALF[0], HALF[1], 2 * HALF[1]))
    lamps, _ = lamps_of(PICTURE_SET, extent, {})
    chip = Surface(
        "chip", pictured(material_optics(laid_over(material), stance=STANCE), files or {}), material="chip"
    )
    card = Surface("card", _striped(), material="card")
    leaning = shift(0.0, 0.0, GAP + HALF[1] * np.sin(np.radians(LEANS))) @ _stood_up(LEANS)
    instances = (
        backdrop_of(PICTURE_SET, {}, {}),
        Instance("card", (card_mesh(),), (card,), leaning @ shift(0.0, 0.0, -BEHIND)),
        Instance("chip", (chip_mesh(),), (chip,), leaning),
    )
    around = surrounding_of(PICTURE_SET.surround, {})
    return Scene(instances, lamps, around, around, extent)


@cache
def chip_mesh() -> Mesh:
    """The chip, closed, its base on z = 0."""
    corner, facing = _outline()
    flat = np.zeros_like(facing)
    nothing = np.zeros(len(facing))
    rows = [_row(flat, nothing, flat, nothing - 1)]
    for middle, turns in ((EDGE, np.linspace(-90, 0, ACROSS)), (THICK - EDGE, np.linspace(0, 90, ACROSS))):
        for turn in np.radians(turns):
            ring = corner + (CORNER - EDGE + EDGE * np.cos(turn)) * facing
            height = middle + EDGE * np.sin(turn)
            rows.append(_row(ring, nothing + height, np.cos(turn) * facing, nothing + np.sin(turn)))
    rim = rows[-1][0][:, :2] - LENS
    out = rim / np.linalg.norm(rim, axis=1, keepdims=True)
    rows.append(_row(LENS + LENS_RADIUS * out, nothing + THICK, flat, nothing + 1))
    radius = (LENS_RADIUS**2 + LENS_HIGH**2) / (2 * LENS_HIGH)
    for turn in np.linspace(np.arcsin(LENS_RADIUS / radius), 0.0, 2 * ACROSS):
        height = THICK + LENS_HIGH - radius * (1 - np.cos(turn))
        ring = LENS + radius * np.sin(turn) * out
        rows.append(_row(ring, nothing + height, np.sin(turn) * out, nothing + np.cos(turn)))
    positions, normals = (np.stack([row[k] for row in rows], axis=1) for k in (0, 1))
    return open_mesh(*(np.concatenate([values, values[:1]]) for values in (positions, normals)))


@cache
def card_mesh() -> Mesh:
    """The card, lying flat about its middle."""
    across, along = CARD[0] / 2, CARD[1] / 2
    x, y = CARD_AT
    corners = np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]) * [across, along] + np.array([x, y])
    return Mesh(
        np.column_stack([corners, np.zeros(4)]),
        np.tile([0.0, 0.0, 1.0], (4, 1)),
        np.array([[0, 0], [1, 0], [1, 1], [0, 1]], float),
        np.array([[0, 1, 2], [0, 2, 3]]),
    )


def _stood_up(degrees: float) -> Array:
    """From lying, its face up, towards standing, its face to the front."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    pose = np.eye(4)
    pose[1:3, 1:3] = [[c, -s], [s, c]]
    return pose


def _outline() -> tuple[Array, Array]:
    """(n, 2) float each: the middles of the corners of the outline, with places between them along its sides,
    and where it faces there."""
    middles = np.array([[1, 1], [-1, 1], [-1, -1], [1, -1]]) * (np.array(HALF) - CORNER)
    places, turns = [], []
    for number, middle in enumerate(middles):
        along = np.linspace(middle, middles[(number + 1) % 4], ALONG + 2)[1:-1]
        places += [np.tile(middle, (AROUND + 1, 1)), along]
        turns += [np.linspace(90 * number, 90 * number + 90, AROUND + 1), np.full(ALONG, 90 * number + 90)]
    turned = np.radians(np.concatenate(turns))
    return np.concatenate(places), np.column_stack([np.cos(turned), np.sin(turned)])


def _row(places: Array, heights: Array, level: Array, up: Array) -> tuple[Array, Array]:
    """A ring's places and normals, (n, 3) float each."""
    return np.column_stack([places, heights]), np.column_stack([level, up])


@cache
def _striped() -> Optics:
    across, along = (round(side * CARD_PX) for side in CARD)
    row, column = np.indices((along, across)) / CARD_PX
    inked = ((row + column) // STRIPE) % 2 == 0
    colour = np.where(inked[..., None], np.array(INK), np.array(PAPER)).astype(np.uint8)
    colour.setflags(write=False)
    return printed_optics(Opaque(gloss=0.05), Texels(colour=colour, size=CARD))
