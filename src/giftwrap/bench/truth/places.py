"""Where the crossings of a printed grid of 10 mm appear on eight surfaces, against closed forms of each.

A picture is taken by an orthographic camera; dots mark the crossings. Wound around, a mm of the printed face
is a mm of its outline's arc; a cone is rolled out; film keeps its share of the way around; on a sphere places
lie along great circles from a label's middle; walls of boxes and lids are flat (textbook geometry).
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
import zxingcpp
from scipy import ndimage
from scipy.integrate import cumulative_simpson

from giftwrap.bench.figure import Figure
from giftwrap.core.model import (
    Board,
    Camera,
    Cap,
    Carton,
    Corner,
    Oval,
    Pack,
    PickedPanel,
    SectionMark,
    Shot,
    SleevePanel,
    Vessel,
    WrapPanel,
)
from giftwrap.core.model.panel import Panel
from giftwrap.core.render.job import take
from giftwrap.core.render.planning import Limits
from giftwrap.core.tests.samples import cylinder, even_light, picture_job, placed, square_of
from giftwrap.core.things.making import shape_pack
from giftwrap.core.things.vessel import shape_vessel
from giftwrap.core.wrap.barcodes import make_barcode
from giftwrap.core.wrap.laid import GLUE_GAP

GRID, DOT = 10.0, 0.8
"""Distance of the crossings and radius of their dots, mm."""
STOCK = 0.12
OUT = GLUE_GAP + STOCK
SIDE_MM, SIDE_PX, SAMPLES = 76.0, 1216, 8
FACING = 0.45
"""Crossings that face away further (cosine) are not looked at."""
FOOT, NARROW, CONE_HIGH = 40.0, 30.0, 100.0
DEPTH = 0.6
BALL = 50.0
SAYS = "https://orchard.example/quince"

Solid = Callable[[np.ndarray], tuple[np.ndarray, np.ndarray]]
"""From mm on the page to places in space and the ways they face, (n, 3) each."""


@dataclass(frozen=True)
class _Surface:
    """A printed surface: the pack, mm of its page, where places of that are, whether it is seen from
    above, and degrees that it is turned to the right."""

    pack: Callable[[list[object]], Pack]
    page: tuple[float, float]
    solid: Solid
    middle: float
    above: bool = False
    turned: float = 0.0


def run() -> Iterator[Figure]:
    """The worst crossing of each; how many of them a QR code is read from; how far two are stretched."""
    surfaces = _surfaces()
    for name, surface in surfaces.items():
        wanted, found = _seen(surface)
        worst = float(np.linalg.norm(found - wanted, axis=1).max())
        yield Figure(f"truth: crossings of a printed grid, {name}, worst", worst, "mm", 0.2)
    read = sum(_reads(surface) for surface in surfaces.values())
    yield Figure("truth: surfaces from which a QR code is read", read, "of 8", len(surfaces), "higher")
    for name, body, panel in (
        ("a dome of 50 mm radius, 26 mm square", BALL_BODY, surfaces["dome"].pack([]).panels[0]),
        ("a sleeve on a waist", WAIST, SleevePanel(from_base=5, width=235, height=110)),
    ):
        stretch = shape_vessel(_vessel(body, panel)).sheets[0].stretch
        yield Figure(f"truth: stretch of {name}, mean", 100 * stretch.mean, "%", None)
        yield Figure(f"truth: stretch of {name}, worst", 100 * stretch.worst, "%", None)


def _surfaces() -> dict[str, _Surface]:
    def around(**more: object) -> Callable[[list[object]], Pack]:
        panel = {"from_base": 40.0, "stock_thickness": STOCK, **more}
        return lambda placements: _vessel(cylinder(36, 150), WrapPanel(**panel, placements=placements))

    oval = cylinder(36, 150).model_copy(
        update={"sections": [SectionMark(height=0, section=Oval(depth_ratio=DEPTH))]}
    )
    cone = _turned((FOOT, 0), (NARROW, CONE_HIGH))
    capped = cylinder(20, 60)
    return {
        "wrap-around": _Surface(around(width=226, height=60), (226, 60), _on_cylinder(0.0, 226), 70),
        "part-wrap": _Surface(
            around(width=70, height=60, centre_angle=25), (70, 60), _on_cylinder(25.0, 70), 70, turned=25.0
        ),
        "cone": _Surface(
            lambda p: _vessel(
                cone, WrapPanel(from_base=20, width=70, height=50, developed=True, placements=p)
            ),
            (70, 50),
            _on_cone,
            45,
        ),
        "oval": _Surface(
            lambda p: _vessel(oval, WrapPanel(from_base=40, width=70, height=60, placements=p)),
            (70, 60),
            _on_oval,
            70,
        ),
        "dome": _Surface(
            lambda p: _vessel(
                BALL_BODY, PickedPanel(part="body", at=(0, -BALL, 40), width=26, height=26, placements=p)
            ),
            (26, 26),
            _on_ball,
            40,
        ),
        "carton": _Surface(_carton, (0, 0), _on_front, 29),
        "sleeve": _Surface(
            lambda p: _vessel(cone, SleevePanel(from_base=15, width=260, height=60, placements=p)),
            (260, 60),
            _in_film,
            45,
        ),
        "lid": _Surface(
            lambda p: _vessel(
                capped, PickedPanel(part="closure", at=(0, 0, 90), width=26, height=26, placements=p), Cap()
            ),
            (26, 26),
            _flat,
            60,
            above=True,
        ),
    }


def _turned(foot: tuple[float, float], top: tuple[float, float], bulge: float = 0.0) -> object:
    leave = "arc" if bulge else "line"
    corners = [
        Corner(radius=foot[0], height=foot[1], leave=leave, bulge=bulge),
        Corner(radius=top[0], height=top[1]),
    ]
    return cylinder(36, 150).model_copy(update={"profile": corners})


BALL_BODY = _turned((30, 0), (30, 80), bulge=20.0)
WAIST = cylinder(36, 120).model_copy(
    update={
        "profile": [Corner(radius=r, height=h) for r, h in ((36, 0), (36, 30), (28, 60), (36, 90), (36, 120))]
    }
)


def _vessel(body: object, panel: Panel, closure: Cap | None = None) -> Pack:
    return Pack.model_validate({"form": Vessel(body=body, closure=closure), "panels": [panel]})  # type: ignore[arg-type]


BLANK = 233.76, 138.85
BOX = Carton(style="reverse-tuck", length=82, width=28, depth=58, board=Board(caliper=0.38))


def _carton(placements: list[object]) -> Pack:
    return Pack(form=BOX.model_copy(update={"prints": {"carton": placements}}))


def _on_cylinder(turn: float, wide: float) -> Solid:
    def solid(at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        angle = np.radians(turn) + (at[:, 0] - wide / 2) / (36 + OUT)
        facing = np.stack([np.sin(angle), -np.cos(angle), 0 * angle], axis=1)
        return (36 + OUT) * facing + [0, 0, 40] + at[:, 1:] * [0, 0, 1], facing

    return solid


def _slant() -> tuple[float, float]:
    """Of the cone: the sine and the cosine of the angle between its wall and its axis."""
    long = np.hypot(FOOT - NARROW, CONE_HIGH)
    return (FOOT - NARROW) / long, CONE_HIGH / long


def _cone_at(along: np.ndarray, angle: np.ndarray, out: float = OUT) -> tuple[np.ndarray, np.ndarray]:
    """Places on its printed face, by mm along the wall from its foot and radians from the front."""
    lean, rise = _slant()
    facing = np.stack([rise * np.sin(angle), -rise * np.cos(angle), lean + 0 * angle], axis=1)
    radius = FOOT - lean * along
    wall = np.stack([radius * np.sin(angle), -radius * np.cos(angle), rise * along], axis=1)
    return wall + out * facing, facing


def _on_cone(at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    lean, rise = _slant()
    start = 20 / rise
    middle = FOOT - lean * (start + 25) + OUT * rise
    apex = middle / lean
    x, y = at[:, 0] - 35, apex - (at[:, 1] - 25)
    reach = np.hypot(x, y)
    return _cone_at(start + 25 + apex - reach, np.arctan2(x, y) / lean)


def _in_film(at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    _, rise = _slant()
    film = SleevePanel.model_fields["stock_thickness"].default
    return _cone_at(15 / rise + at[:, 1], 2 * np.pi * (at[:, 0] / 260 - 0.5), GLUE_GAP + film)


def _on_oval(at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    turn = np.linspace(-1.5, 1.5, 20_001)
    a, b = 36.0, DEPTH * 36.0
    speed = np.hypot(a * np.cos(turn), b * np.sin(turn))
    nx, ny = b * np.sin(turn) / speed, -a * np.cos(turn) / speed
    x, y = a * np.sin(turn) + OUT * nx, -b * np.cos(turn) + OUT * ny
    along = cumulative_simpson(np.hypot(np.gradient(x, turn), np.gradient(y, turn)), x=turn, initial=0)
    where = at[:, 0] - 35 + np.interp(0, turn, along)
    places = [np.interp(where, along, values) for values in (x, y)]
    facing = [np.interp(where, along, values) for values in (nx, ny)]
    return np.stack([*places, 40 + at[:, 1]], axis=1), np.stack([*facing, 0 * at[:, 0]], axis=1)


def _on_ball(at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    x, y = (at - 13).T
    away = np.hypot(x, y)
    angle = away / (BALL + OUT)
    share = np.sin(angle) / np.maximum(away, 1e-9)
    facing = np.stack([x * share, -np.cos(angle), y * share], axis=1)
    return (BALL + OUT) * facing + [0, 0, 40], facing


def _on_front(at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The front of the box: its blank is alike above and below, so that its middle lies half way up."""
    high = shape_pack(Pack(form=BOX)).thing.extent.high[2]
    # from the left end of the blank a glue flap, then the front: as long as inside, and a caliper
    x, z = at[:, 0] - 12 - (82 + 0.38) / 2, at[:, 1] - BLANK[1] / 2 + high / 2
    y = np.full_like(x, -(28 / 2 + 0.38))
    return np.stack([x, y, z], axis=1), np.tile([0.0, -1.0, 0.0], (len(at), 1))


def _flat(at: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    x, y = (at - 13).T
    return np.stack([x, y, 0 * x], axis=1), np.tile([0.0, 0.0, 1.0], (len(at), 1))


def _reads(surface: _Surface) -> bool:
    """Whether a code printed in the middle is read from a picture."""
    made = make_barcode("qr", SAYS)
    wide, tall = surface.page if surface.page[0] else BLANK
    middle = (12 + (82 + 0.38) / 2, tall / 2) if surface.page[0] == 0 else (wide / 2, tall / 2)
    if surface.turned:
        middle = (wide / 2 - np.radians(surface.turned) * (36 + OUT), tall / 2)
    side = 14.0
    placement, files = placed(made.svg, width=side, x=middle[0] - side / 2, y=middle[1] - side / 2)
    light = _picture(surface, [placement], files)
    codes = np.clip(255 * (light / np.quantile(light, 0.99)) ** (1 / 2.2), 0, 255).astype(np.uint8)
    return any(code.text == SAYS for code in zxingcpp.read_barcodes(codes))


def _camera(surface: _Surface) -> Camera:
    return Camera(
        projection="orthographic",
        orthographic_width=SIDE_MM,
        distance=0.01 if surface.above else 900,
        height=900 if surface.above else surface.middle,
        aim_height=surface.middle,
    )


def _picture(surface: _Surface, placements: list[object], files: dict[str, bytes]) -> np.ndarray:
    """Light in green as an orthographic camera sees it."""
    shot = Shot(camera=_camera(surface), purposes=[square_of(SIDE_PX)])
    job = picture_job(surface.pack(placements), even_light(), shot, files)
    return take(job, Limits(SAMPLES, adaptive=False)).mean_light()[..., 1]


def _seen(surface: _Surface) -> tuple[np.ndarray, np.ndarray]:
    """(n, 2) float each, mm from the picture's middle: where crossings are to be seen, and where they are."""
    wide, tall = surface.page if surface.page[0] else BLANK
    across, up = (np.arange(side / 2 % GRID, side, GRID) for side in (wide, tall))
    crossings = np.array([(x, y) for y in up for x in across])
    inside = (np.minimum(crossings, [wide, tall] - crossings) > 1.5 * DOT).all(axis=1)
    crossings = crossings[inside]
    circles = "".join(f'<circle cx="{x}" cy="{tall - y}" r="{DOT}"/>' for x, y in crossings)
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide}mm" height="{tall}mm" '
    placement, files = placed(f'{svg}viewBox="0 0 {wide} {tall}">{circles}</svg>'.encode(), width=wide)
    camera = _camera(surface)
    light = _picture(surface, [placement], files)
    places, facing = surface.solid(crossings)
    target = np.array([0.0, 0.0, surface.middle])
    away = np.array([0.0, -camera.distance, camera.height]) - target
    away /= np.linalg.norm(away)
    right = np.array([1.0, 0.0, 0.0])
    above = np.cross(away, right)
    wanted = np.stack([(places - target) @ right, (places - target) @ above], axis=1)
    shown = (facing @ away > FACING) & (np.abs(wanted) < SIDE_MM / 2 - 3 * DOT).all(axis=1)
    if surface.page[0] == 0:
        shown &= (crossings > [14, 42]).all(axis=1) & (crossings < [92, 96]).all(axis=1)
    wanted = wanted[shown]
    return wanted, np.array([_dot(light, at) for at in wanted])


def _dot(light: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Where a dot near a place is, mm from the picture's middle to the right and up."""
    scale = SIDE_PX / SIDE_MM
    column, row = SIDE_PX / 2 + at[0] * scale, SIDE_PX / 2 - at[1] * scale
    reach = round(2.4 * DOT * scale)
    left, top = round(column) - reach, round(row) - reach
    part = light[top : top + 2 * reach, left : left + 2 * reach]
    dark = np.clip(1 - part / np.quantile(part, 0.9) - 0.3, 0, None)
    labels, _ = ndimage.label(dark > 0)
    sizes = np.bincount(labels.ravel())[1:]
    own = labels == 1 + int(sizes.argmax())
    down, across = ndimage.center_of_mass(np.where(own, dark, 0))
    return np.array([left + across + 0.5 - SIDE_PX / 2, SIDE_PX / 2 - top - down - 0.5]) / scale
