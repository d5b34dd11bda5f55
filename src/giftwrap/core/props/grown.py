"""What has grown, or was woven of it: fruit, leaves, twigs, cloth. By its seed no one is like another."""

from __future__ import annotations

import numpy as np
from scipy.interpolate import CubicSpline

from giftwrap.core.mesh.mesh import Mesh, together
from giftwrap.core.mesh.path import Array, Indices
from giftwrap.core.model.prop import MadeProp
from giftwrap.core.props.shaped import (
    ball,
    fitted,
    outwards,
    quads,
    rng_of,
    rough,
    sheet,
    size_of,
    surface,
    tube,
    waves,
)


def leaf(prop: MadeProp, rows: int = 72) -> Mesh:
    """A leaf that lies, its stalk to the left: midrib and veins pressed in, its edges and its tip bent up."""
    rng = rng_of(prop)
    along, across = np.linspace(0.0, 1.0, rows), np.linspace(-1.0, 1.0, rows // 3)
    half = _outline(prop.what, along)
    u, v = np.meshgrid(along, across, indexing="ij")
    width = half[:, None] * v
    lean = rng.uniform(-0.06, 0.06) * np.sin(np.pi * u) ** 2
    cup = rng.uniform(0.25, 0.5) * np.abs(v) ** 1.6 * half[:, None]
    tip = rng.uniform(0.1, 0.24) * (u - 0.35) ** 2
    twist = rng.uniform(-0.25, 0.25) * (u - 0.3) * width
    wave = 0.018 * np.sin(2 * np.pi * (rng.uniform(2.5, 4) * u + rng.uniform())) * v**2
    veins = np.exp(-((v / 0.035) ** 2)) + 0.5 * np.exp(
        -((((u * 11 - 4 * np.abs(v) * half[:, None]) % 1 - 0.5) / 0.07) ** 2)
    )
    high = cup + tip + twist + wave - 0.006 * veins * (half[:, None] > 0.01)
    scale = prop.width
    places = (
        np.stack([(u - 0.5), width * prop.depth / scale / (2 * half.max()) + lean, high], axis=-1) * scale
    )
    places[..., 2] = _lain(places[..., 2], prop.height)
    points, faces = sheet(places, _thin(prop))
    return _stood(points, faces, 50.0)


def _thin(prop: MadeProp) -> float:
    """Mm that a leaf is thick."""
    return float(min(0.35, 0.2 * prop.height))


def _lain(heights: Array, high: float) -> Array:
    """Heights from the floor to as high as is wanted."""
    return np.asarray((heights - heights.min()) / max(float(np.ptp(heights)), 1e-9) * high)


def _stood(points: Array, faces: Indices, smooth: float) -> Mesh:
    """As it is, on the floor around its middle."""
    low, high = points.min(axis=0), points.max(axis=0)
    return surface(points - [*((low + high) / 2)[:2], low[2]], outwards(points, faces), smooth)


def _outline(what: str, along: Array) -> Array:
    """Half widths of leaves along them, for a length of 1."""
    swell = np.sin(np.pi * along**0.85) ** 1.1
    half = {
        "laurel-leaf": 0.19 * np.sin(np.pi * along**0.9) ** 0.85,
        "willow-leaf": 0.075 * np.sin(np.pi * along**0.75) ** 0.9,
        "round-leaf": 0.42 * np.sqrt(np.maximum(1 - (2 * along - 1) ** 2, 0)),
        "oak-leaf": 0.3
        * swell
        * (0.78 + 0.22 * np.cos(2 * np.pi * (4.0 * along + 0.5)))
        * (0.5 + 0.5 * along),
        "petal": 0.42 * np.sin(np.pi * np.clip(along, 0, 1) ** 1.7) ** 0.6,
    }[what]
    half = np.where((along > 0) & (along < 1), np.maximum(half, 0.008), 0.004)
    return np.asarray(half)


def blossom(prop: MadeProp) -> list[Mesh]:
    """Five petals around a middle, open to above."""
    rng = rng_of(prop)
    along, across = np.linspace(0.0, 1.0, 36), np.linspace(-1.0, 1.0, 19)
    u, v = np.meshgrid(along, across, indexing="ij")
    half = _outline("petal", along)[:, None]
    petals = []
    for number in range(5):
        rise = rng.uniform(0.5, 0.75) * u**1.4 + 0.35 * np.abs(v * half) ** 1.5
        rise = rise + 0.02 * np.sin(9 * u + number) * v**2
        flat = np.stack([0.04 + 0.46 * u, 1.05 * half * v * (1 - 0.1 * u), 0.5 * rise], axis=-1)
        turn = 2 * np.pi * (number + rng.uniform(-0.06, 0.06)) / 5
        c, s = np.cos(turn), np.sin(turn)
        places = flat @ np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])
        petals.append(places + np.array([0.0, 0.0, 0.006 * number]))
    every = np.concatenate([p.reshape(-1, 3) for p in petals])
    low, high = every.min(axis=0), every.max(axis=0)
    factor = np.array(size_of(prop)) / (high - low)
    made = [sheet((p - low) * factor, 0.3) for p in petals]
    meshes = [surface(points, outwards(points, faces), 50.0) for points, faces in made]
    centre = np.array([prop.width / 2, prop.depth / 2, 0.0])
    whole = together(*meshes)
    foot = whole.positions[:, 2].min()
    whole = Mesh(whole.positions - centre - [0, 0, foot], whole.normals, whole.uvs, whole.faces)
    ways, faces = ball(3)
    middle = 0.13 * min(prop.width, prop.depth)
    core = ways * [middle, middle, 0.22 * prop.height] * (1 + 0.1 * rough(rng, ways, 2.5))[:, None]
    return [whole, surface(core + np.array([0.0, 0.0, 0.25 * prop.height]), faces)]


FRUIT: dict[str, list[tuple[float, float]]] = {
    "apple": [
        (0, 0.09),
        (0.22, 0.035),
        (0.45, 0.0),
        (0.78, 0.17),
        (1, 0.56),
        (0.86, 0.88),
        (0.5, 1),
        (0.22, 0.95),
        (0, 0.8),
    ],
    "quince": [
        (0, 0.06),
        (0.2, 0.02),
        (0.5, 0.0),
        (0.9, 0.2),
        (1, 0.45),
        (0.74, 0.76),
        (0.42, 0.95),
        (0.2, 1),
        (0, 0.9),
    ],
    "pear": [
        (0, 0.05),
        (0.25, 0.0),
        (0.7, 0.06),
        (1, 0.3),
        (0.82, 0.52),
        (0.47, 0.75),
        (0.32, 0.92),
        (0.16, 1),
        (0, 0.97),
    ],
    "plum": [
        (0, 0.0),
        (0.3, 0.025),
        (0.75, 0.16),
        (1, 0.5),
        (0.78, 0.84),
        (0.35, 0.985),
        (0.14, 0.985),
        (0, 0.95),
    ],
    "orange": [
        (0, 0.02),
        (0.35, 0.02),
        (0.78, 0.16),
        (1, 0.5),
        (0.79, 0.84),
        (0.34, 0.99),
        (0.1, 0.985),
        (0, 0.965),
    ],
    "lemon": [
        (0, 0.0),
        (0.14, 0.03),
        (0.3, 0.1),
        (0.8, 0.25),
        (1, 0.5),
        (0.8, 0.75),
        (0.3, 0.9),
        (0.13, 0.98),
        (0, 1.0),
    ],
    "berry": [
        (0, 0.0),
        (0.4, 0.03),
        (0.85, 0.22),
        (1, 0.5),
        (0.86, 0.8),
        (0.45, 0.97),
        (0.36, 1.0),
        (0.28, 0.93),
        (0, 0.9),
    ],
    "hazelnut": [
        (0, 0.03),
        (0.5, 0.0),
        (0.88, 0.16),
        (1, 0.4),
        (0.84, 0.72),
        (0.4, 0.94),
        (0.12, 0.99),
        (0, 1.0),
    ],
}
"""Profiles of fruit from the hollow beneath to that above: shares of half the width, and of the height."""


STALKED = {"apple": 0.24, "quince": 0.12, "pear": 0.26, "plum": 0.14}
"""How long stalks are, beside the fruit's height."""


LIES = {"lemon"}
"""Lies on its side."""


def fruit(prop: MadeProp) -> list[Mesh]:
    """A fruit, a little bent, and its stalk where it has one."""
    rng = rng_of(prop)
    knots = np.array(FRUIT[prop.what], dtype=float)
    way = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(knots, axis=0).T))])
    profile = CubicSpline(way, knots, bc_type="natural")(np.linspace(0.0, way[-1], 72))
    profile[:, 0] = np.maximum(profile[:, 0], 0.0)
    profile[[0, -1], 0] = 0.0
    turns = np.linspace(0.0, 2 * np.pi, 97)
    radius, turn = np.meshgrid(profile[:, 0], turns, indexing="ij")
    level = np.repeat(profile[:, 1:], len(turns), axis=1)
    ribs = 0.035 if prop.what in ("apple", "quince") else 0.0
    radius = radius * (1 + ribs * np.cos(5 * turn + rng.uniform(0, 6)) * np.abs(level - 0.45))
    if prop.what == "plum":
        radius = radius * (1 - 0.05 * np.exp(-(((turn - np.pi) / 0.16) ** 2)))
    x, y = radius * np.cos(turn), radius * np.sin(turn)
    x = x + rng.uniform(-0.08, 0.08) * (level - 0.2) ** 2
    places = np.column_stack([x.ravel(), y.ravel(), level.ravel()])
    bump = 1 + 0.02 * waves(rng, places, 0.6)
    places[:, :2] *= bump[:, None]
    index = np.arange(len(places)).reshape(radius.shape)
    faces = quads(index)
    if prop.what in LIES:
        places = places[:, [2, 1, 0]]
    places[index[:, -1]] = places[index[:, 0]]  # where it closes
    stalk = STALKED.get(prop.what)
    own = (prop.width, prop.depth, prop.height / (1 + 0.45 * stalk)) if stalk else size_of(prop)
    body = fitted(places, outwards(places, faces), own)
    if stalk is None:
        return [body]
    begins = own[2] * (knots[-1, 1] - 0.03)
    ends = prop.height
    line = np.linspace(0.0, 1.0, 14)
    bent = rng.uniform(0.08, 0.2) * (ends - begins) * line**2
    turned = rng.uniform(0, 2 * np.pi)
    places = np.column_stack([bent * np.cos(turned), bent * np.sin(turned), begins + (ends - begins) * line])
    thick = 0.02 * prop.width * (1 - 0.25 * np.sin(np.pi * line) + 0.35 * line**6)
    points, faces = tube(places, thick)
    return [body, surface(points, outwards(points, faces), 60.0)]


def log(prop: MadeProp) -> list[Mesh]:
    """A piece of a trunk that stands, and its bark around it."""
    rng = rng_of(prop)
    turns, levels = np.linspace(0.0, 2 * np.pi, 161), np.linspace(0.0, 1.0, 40)
    turn, level = np.meshgrid(turns, levels, indexing="ij")
    ring = np.column_stack([np.cos(turn).ravel(), np.sin(turn).ravel(), 0.4 * level.ravel()])
    shape = 1 + 0.05 * waves(rng, ring * [1, 1, 0.3], 0.4)
    rifts = 0.05 * np.abs(rough(rng, ring * [2.2, 2.2, 0.5], 1.2)) ** 0.7
    radius = (shape * (0.96 + rifts)).reshape(turn.shape)
    radius[-1] = radius[0]
    half = np.array([prop.width / 2, prop.depth / 2]) / radius.max()
    bark = np.stack(
        [half[0] * radius * np.cos(turn), half[1] * radius * np.sin(turn), prop.height * level], axis=-1
    )
    inner = bark * [0.9, 0.9, 1.0]
    core = np.concatenate([inner, inner[:, :1] * [0, 0, 1.0], inner[:, -1:] * [0, 0, 1.0]], axis=1)
    core = np.concatenate([core[:, -2:-1], core[:, :-2], core[:, -1:]], axis=1)
    jacket = np.concatenate([inner[:, :1], bark, inner[:, -1:], inner[:, ::-1]], axis=1)
    meshes = []
    for grid, smooth in ((core, 40.0), (jacket, 50.0)):
        columns, rows = grid.shape[:2]
        index = np.arange(columns * rows).reshape(columns, rows)
        faces = quads(index)
        points = grid.reshape(-1, 3)
        meshes.append(surface(points, outwards(points, faces), smooth))
    return meshes


def twig(prop: MadeProp) -> Mesh:
    """A bare twig that lies, with shoots to both sides."""
    return _branches(prop)[0]


def leafy_twig(prop: MadeProp) -> list[Mesh]:
    """A twig with leaves: the leaves, then the wood."""
    rng = rng_of(prop)
    wood, ends = _branches(prop)
    leaves = []
    for number, (place, way) in enumerate(ends):
        one = leaf(
            prop.model_copy(
                update={
                    "what": "laurel-leaf",
                    "seed": 31 * prop.seed + number,
                    "width": 0.24,
                    "depth": 0.09,
                    "height": rng.uniform(0.02, 0.05),
                }
            ),
            rows=24,
        )
        turned = np.arctan2(way[1], way[0])
        c, s = np.cos(turned), np.sin(turned)
        tilt = rng.uniform(0.0, 0.4)
        about = np.array([[np.cos(tilt), 0, np.sin(tilt)], [0, 1, 0], [-np.sin(tilt), 0, np.cos(tilt)]]).T
        matrix = about @ np.array([[c, s, 0], [-s, c, 0], [0, 0, 1]])
        points = (one.positions + np.array([0.12, 0, 0])) @ matrix + place
        leaves.append(Mesh(points, one.normals @ matrix, one.uvs, one.faces))
    return [together(*leaves), wood]


def _branches(prop: MadeProp) -> tuple[Mesh, list[tuple[Array, Array]]]:
    """The wood of a twig that is 1 long, and where leaves sit: places and directions."""
    rng = rng_of(prop)
    along = np.linspace(0.0, 1.0, 60)
    sway = 0.05 * np.sin(2 * np.pi * (rng.uniform(0.4, 0.8) * along + rng.uniform()))
    rise = 0.03 * np.sin(np.pi * along) + 0.02
    main = np.column_stack([along - 0.5, sway, rise])
    solids = [tube(main, 0.011 * (1.15 - 0.8 * along), 12)]
    ends = [(main[-1], main[-1] - main[-4])]
    for number, at in enumerate(np.linspace(0.16, 0.9, 9)):
        side = 1 if number % 2 else -1
        start = main[int(at * 59)]
        length = rng.uniform(0.1, 0.2) * (1.1 - 0.5 * at)
        way = np.array([np.cos(0.8), side * np.sin(0.8), rng.uniform(-0.02, 0.15)])
        steps = np.linspace(0.0, 1.0, 16)[:, None]
        line = start + length * (steps * way + 0.12 * steps**2 * [0.5, -side * 0.5, 0.2])
        solids.append(tube(line, 0.006 * (1.1 - 0.7 * steps[:, 0]), 10))
        ends += [(line[-1], line[-1] - line[-3]), (start, way * [1, -1, 1])]
    meshes = [surface(points, outwards(points, faces), 60.0) for points, faces in solids]
    return together(*meshes), ends


def cinnamon(prop: MadeProp) -> Mesh:
    """A stick of rolled bark that lies, rolled in from both sides."""
    rng = rng_of(prop)
    turn = np.linspace(0.0, 2 * np.pi * 1.35, 70)
    spiral = (0.72 + 0.26 * turn / turn[-1])[:, None] * np.column_stack([np.cos(turn), np.sin(turn)])
    both = [
        np.column_stack([spiral[:, 0] + 0.9, spiral[:, 1]]),
        np.column_stack([-spiral[:, 0] - 0.9, spiral[:, 1]]),
    ]
    along = np.linspace(-0.5, 0.5, 24)
    meshes = []
    for roll in both:
        x = np.broadcast_to(along[:, None], (24, 70))
        wobble = 1 + 0.03 * np.sin(6 * along + rng.uniform(0, 6))[:, None]
        places = np.stack([x * 8, roll[None, :, 0] * wobble, roll[None, :, 1] * wobble], axis=-1)
        points, faces = sheet(places, 0.11)
        meshes.append(surface(points, outwards(points, faces), 40.0))
    return together(*meshes)


def cloth(prop: MadeProp) -> Mesh:
    """A cloth that lies in folds."""
    rng = rng_of(prop)
    along, across = np.linspace(-0.5, 0.5, 120), np.linspace(-0.5, 0.5, 90)
    x, y = np.meshgrid(along, across, indexing="ij")
    flat = np.column_stack([x.ravel(), y.ravel(), np.zeros(x.size)])
    bend = (0.16 * waves(rng, flat, 0.9)).reshape(x.shape)
    folds = np.zeros_like(x)
    for often, tall in ((2.6, 1.0), (5.2, 0.5), (9.0, 0.16)):
        lean = rng.uniform(-0.5, 0.5)
        folds += (
            tall * (0.5 + 0.5 * np.sin(2 * np.pi * (often * (y + lean * x + bend) + rng.uniform()))) ** 1.8
        )
    folds *= 0.55 + 0.45 * (waves(rng, flat, 0.7)).reshape(x.shape)
    pulled = 0.06 * waves(rng, flat, 0.8).reshape(x.shape)
    places = np.stack([x + 0.5 * pulled, y * (1 - 0.12 * np.cos(2 * np.pi * x)) + pulled, 0 * x], axis=-1)
    places = places / np.ptp(places.reshape(-1, 3), axis=0).clip(1e-9) * [prop.width, prop.depth, 0.0]
    places[..., 2] = _lain(np.maximum(folds, 0.0), max(prop.height - 0.9, 0.2 * prop.height))
    points, faces = sheet(places, min(0.9, 0.5 * prop.height))
    return _stood(points, faces, 60.0)
