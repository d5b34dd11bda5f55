"""Where dots of a label appear on round, oval and square walls, against the arc lengths of their outlines."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from scipy import ndimage
from scipy.integrate import cumulative_simpson

from giftwrap.bench.figure import Figure
from giftwrap.core.model import Camera, Oval, Rectangle, Round, SectionMark, Shot, WrapPanel
from giftwrap.core.model.body import Section
from giftwrap.core.render.job import take
from giftwrap.core.render.planning import Limits
from giftwrap.core.tests.samples import cylinder, even_light, labelled, picture_job, placed, square_of
from giftwrap.core.wrap.laid import GLUE_GAP

RADIUS, DEPTH = 36.0, 0.6
WIDE, TALL, FROM_BASE, STEP, DOT = 54.0, 60.0, 40.0, 6.0, 0.7
"""The label, the distance of its dots and their radius, mm."""
SIDE_MM, SIDE_PX, SAMPLES = 64.0, 1024, 8
SECTIONS: dict[str, Section] = {
    "round": Round(),
    "oval": Oval(depth_ratio=DEPTH),
    "square": Rectangle(depth_ratio=1, corner=0.2),
}


def run() -> Iterator[Figure]:
    """The worst of 72 dots, across and up."""
    for name, section in SECTIONS.items():
        apart = _found(section) - _expected(section)
        for axis, way in enumerate(("across", "up")):
            worst = float(np.abs(apart[:, axis]).max())
            yield Figure(f"truth: place of a label's dots, {name}, {way}, worst", worst, "mm", 0.05)


def _dots() -> np.ndarray:
    """(n, 2) mm from the label's middle and from its foot."""
    across = np.arange(-WIDE / 2 + STEP / 2, WIDE / 2, STEP)
    up = np.arange(STEP / 2, TALL, STEP * 1.2)
    return np.array([(x, z) for z in up for x in across])


def _found(section: Section) -> np.ndarray:
    """(n, 2) mm from the axis and from the table, as they are measured in a picture."""
    circles = "".join(f'<circle cx="{x + WIDE / 2}" cy="{TALL - z}" r="{DOT}"/>' for x, z in _dots())
    page = f'<svg xmlns="http://www.w3.org/2000/svg" width="{WIDE}mm" height="{TALL}mm" '
    placement, files = placed(f'{page}viewBox="0 0 {WIDE} {TALL}">{circles}</svg>'.encode(), width=WIDE)
    body = cylinder(RADIUS, 150).model_copy(update={"sections": [SectionMark(height=0, section=section)]})
    panel = WrapPanel(from_base=FROM_BASE, width=WIDE, height=TALL, placements=[placement])
    middle = FROM_BASE + TALL / 2
    camera = Camera(
        projection="orthographic", orthographic_width=SIDE_MM, distance=900, height=middle, aim_height=middle
    )
    shot = Shot(camera=camera, purposes=[square_of(SIDE_PX)])
    job = picture_job(labelled(body, panel), even_light(), shot, files)
    light = take(job, Limits(SAMPLES, adaptive=False)).mean_light()[..., 1]
    paper = ndimage.maximum_filter(ndimage.median_filter(light, 3), 2 * round(2 * DOT * SIDE_PX / SIDE_MM))
    dark = 1 - light / np.maximum(paper, 1e-6)
    wanted, scale = _expected(section), SIDE_PX / SIDE_MM
    reach = round(1.6 * DOT * scale)
    found = []
    for x, z in wanted:
        column, row = SIDE_PX / 2 + x * scale, SIDE_PX / 2 - (z - middle) * scale
        left, top = round(column) - reach, round(row) - reach
        part = np.clip(dark[top : top + 2 * reach, left : left + 2 * reach] - 0.25, 0, None)
        down, right = ndimage.center_of_mass(part)
        place = np.array([left + right + 0.5, SIDE_PX - 0.5 - top - down]) - SIDE_PX / 2
        found.append(place / scale + (0, middle))
    return np.array(found)


def _expected(section: Section) -> np.ndarray:
    """The same by the arc length of the printed face, which runs beside the outline."""
    dots = _dots()
    out = GLUE_GAP + WrapPanel.model_fields["stock_thickness"].default
    if isinstance(section, Round):
        across = (RADIUS + out) * np.sin(dots[:, 0] / (RADIUS + out))
    elif isinstance(section, Oval):
        turn = np.linspace(-1.5, 1.5, 20_001)
        a, b = RADIUS, DEPTH * RADIUS
        speed = np.hypot(a * np.cos(turn), b * np.sin(turn))
        x = a * np.sin(turn) + out * b * np.sin(turn) / speed
        y = -b * np.cos(turn) - out * a * np.cos(turn) / speed
        steps = np.hypot(np.gradient(x, turn), np.gradient(y, turn))
        along = cumulative_simpson(steps, x=turn, initial=0)
        across = np.interp(dots[:, 0] + np.interp(0, turn, along), along, x)
    else:
        across = dots[:, 0]
    return np.stack([across, FROM_BASE + dots[:, 1]], axis=1)
