"""A small drawing of a pack to tell it from others."""

from __future__ import annotations

import threading
from collections.abc import Mapping

import numpy as np
from cachetools import LRUCache, cached

from giftwrap.core.materials.starting import drawn_colour
from giftwrap.core.mesh.path import Array
from giftwrap.core.model import Carton, Clear, Pack, Received
from giftwrap.core.model.material import Material, plain
from giftwrap.core.things.carton import shape_carton
from giftwrap.core.things.drawing import draw
from giftwrap.core.things.outlines import outlines_of
from giftwrap.core.things.received import shape_received
from giftwrap.core.things.vessel import shape_vessel

MARGIN = 4.0
LINE_SHARE = 0.008
"""Width of a line as a share of the drawing's longer side."""


def _content(pack: Pack, files: Mapping[str, bytes]) -> str:
    return pack.model_dump_json(exclude={"parts": True, "copies": True, "form": {"tracing"}})


@cached(LRUCache(128), key=_content, lock=threading.Lock())
def _drawn(pack: Pack, files: Mapping[str, bytes]) -> str:
    pack = pack.model_copy(update={"parts": {}, "copies": []})
    if isinstance(pack.form, Carton):
        return _carton(pack.model_copy(update={"added": []}))
    if isinstance(pack.form, Received):
        return _received(pack, files)
    pack = pack.model_copy(update={"added": []})
    shape = shape_vessel(pack, coarse=True)
    drawing = draw(shape)
    body, wall = _around(drawing.outer), plain(pack.vessel.body.material)
    points = np.vstack([body, *(outline.points for outline in drawing.closure)])
    low, high = points.min(axis=0) - MARGIN, points.max(axis=0) + MARGIN
    line = LINE_SHARE * float((high - low).max())
    shown = [_loop(body, _colour(wall), 0.45 if isinstance(wall, Clear) else 1.0, line)]
    contents = pack.vessel.contents
    if drawing.contents is not None and contents and isinstance(wall, Clear):
        shown.append(_loop(_around(drawing.contents[::-1]), _colour(plain(contents.material)), 0.9, 0.0))
    for sheet in shape.sheets:
        (left, _, foot), (right, _, top) = sheet.bounds
        label = np.array([[left, foot], [right, foot], [right, top], [left, top]])
        stock = sheet.panel.made_of
        shown.append(_loop(label, _colour(stock), 0.2 if isinstance(stock, Clear) else 0.95, 0.5 * line))
    made_of = {piece.part: piece.material for piece in shape.pieces}
    for outline in drawing.closure:
        material = made_of[outline.part]
        opacity = 0.35 if isinstance(material, Clear) else 1.0
        shown.append(_loop(outline.points, _colour(material), opacity, line))
    width, height = high - low
    turn = f"rotate(180 {(low[0] + high[0]) / 2:.2f} {-(low[1] + high[1]) / 2:.2f})"
    group = f'<g transform="{turn}">' if pack.vessel.stands_on == "closure" else "<g>"
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{low[0]:.2f} {-high[1]:.2f} {width:.2f} '
        f'{height:.2f}">{group}{"".join(shown)}</g></svg>'
    )


def _carton(pack: Pack) -> str:
    """A carton seen from above in front, its faces from the furthest to the nearest."""
    shape = shape_carton(pack)
    turn, tilt = np.radians(-28.0), np.radians(24.0)
    across = np.array([np.cos(turn), np.sin(turn), 0.0])
    away = np.array([-np.sin(turn) * np.cos(tilt), np.cos(turn) * np.cos(tilt), -np.sin(tilt)])
    up = np.cross(across, away)
    faces: list[tuple[float, Array, str]] = []
    for one in shape.shape.components:
        for edge, normal in one.folded.outlines().values():
            points = edge @ one.pose[:3, :3].T + one.pose[:3, 3]
            facing = one.pose[:3, :3] @ normal @ away
            board = pack.carton.board
            colour = plain(board.outside if facing < 0 else board.inside).colour
            seen = np.column_stack([points @ across, points @ up])
            faces.append((-float((points @ away).mean()), seen, colour))
    points = np.vstack([seen for _, seen, _ in faces])
    low, high = points.min(axis=0) - MARGIN, points.max(axis=0) + MARGIN
    line = LINE_SHARE * float((high - low).max())
    drawn = [_loop(seen, colour, 1.0, line) for _, seen, colour in sorted(faces, key=lambda face: face[0])]
    width, height = high - low
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{low[0]:.2f} {-high[1]:.2f} {width:.2f} '
        f'{height:.2f}">{"".join(drawn)}</svg>'
    )


def _received(pack: Pack, files: Mapping[str, bytes]) -> str:
    """A received model from the front, its parts from the furthest to the nearest."""
    shape = shape_received(pack, files, coarse=True)
    made_of = {piece.part: piece.material for piece in shape.pieces}
    [outlines] = outlines_of(shape.pieces, 0.0)
    points = np.vstack([ring for _, rings in outlines for ring in rings])
    low, high = points.min(axis=0) - MARGIN, points.max(axis=0) + MARGIN
    line = LINE_SHARE * float((high - low).max())
    drawn = []
    for part, rings in outlines:
        opacity = 0.45 if isinstance(made_of[part], Clear) else 1.0
        drawn += [_loop(ring, _colour(made_of[part]), opacity, line) for ring in rings]
    width, height = high - low
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{low[0]:.2f} {-high[1]:.2f} {width:.2f} '
        f'{height:.2f}">{"".join(drawn)}</svg>'
    )


def silhouette_svg(pack: Pack, files: Mapping[str, bytes] | None = None) -> str:
    """Draw a pack as an SVG seen from the front, in mm, in the colours of its materials.

    files : contents by SHA-256, of received models
    """
    return _drawn(pack, files or {})


def _around(line: Array) -> Array:
    """A line from the axis and back to it, and its mirror image, as one outline."""
    return np.vstack([line, line[::-1] * np.array([-1.0, 1.0])])


def _loop(points: Array, colour: str, opacity: float, line: float) -> str:
    path = "M" + "L".join(f"{x:.2f} {-y:.2f}" for x, y in points) + "Z"
    edge = f' stroke="#3d4a47" stroke-width="{line:.2f}" stroke-linejoin="round"' if line else ""
    return f'<path d="{path}" fill="{colour}" fill-opacity="{opacity}"{edge}/>'


def _colour(material: Material) -> str:
    if isinstance(material, Clear) and material.colour.lower() in ("#ffffff", "#fbfdfd"):
        return "#c9d9d6"  # white glass is drawn as one sees it: greenish
    return drawn_colour(material)
