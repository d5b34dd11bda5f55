"""Half-profiles as DXF drawings in mm."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from ezdxf import path as dxf_path
from ezdxf.filemanagement import new as new_drawing
from ezdxf.filemanagement import read as read_drawing
from ezdxf.lldxf.const import DXFError

from giftwrap.core.errors import PackError
from giftwrap.core.formats.strokes import Stroke, body_strokes, chained, radius_of, sagitta
from giftwrap.core.model import Body

DXF_MM = {0: 1.0, 1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}
"""Millimetres in the units of $INSUNITS: none, inches, feet, mm, cm, m (DXF reference, header variables)."""


def write_dxf(body: Body) -> str:
    """A body's half-profile as a DXF drawing in mm. Raises PackError when it cannot be formed."""
    drawing = new_drawing("R2010", units=4)
    drawing.layers.add("PROFILE")
    drawing.layers.add("AXIS")
    space = drawing.modelspace()
    strokes = body_strokes(body)
    points: list[tuple[float, float, float]] = []
    for stroke in strokes:
        chord = math.dist(stroke.start, stroke.end)
        # DXF bulge is the tangent of a quarter of the arc's angle, positive to the right of the chord
        points.append((*stroke.start, 2 * stroke.bulge / chord if chord else 0.0))
        points += [(*point, 0.0) for point in stroke.through]
    points.append((*strokes[-1].end, 0.0))
    space.add_lwpolyline(points, format="xyb", dxfattribs={"layer": "PROFILE"})
    top = max(p.end[1] for p in strokes)
    space.add_line((0, -5), (0, top + 5), dxfattribs={"layer": "AXIS"})
    stream = io.StringIO()
    drawing.write(stream)
    return stream.getvalue()


def read_dxf(data: bytes, name: str) -> tuple[list[list[Stroke]], float | None, list[str]]:
    """The lines of a DXF, where its axis is, and remarks; mm. Raises PackError when it is broken."""
    try:
        text = data.decode("utf-8", errors="replace").replace("\r\n", "\n")
        drawing = read_drawing(io.StringIO(text))
    except (DXFError, ValueError, TypeError, KeyError, IndexError, AttributeError) as error:
        reason = " ".join(str(error).split()).rstrip(".")
        raise PackError(
            f"{name} is broken: {reason}. Open it where it was drawn and save it again."
        ) from error
    scale = DXF_MM.get(drawing.header.get("$INSUNITS", 0), 1.0)
    strokes: list[Stroke] = []
    axis, notes = None, []
    for entity in drawing.modelspace():
        label = f"{entity.dxftype()} {entity.dxf.handle}"
        try:
            path = dxf_path.make_path(entity)
        except TypeError:
            notes.append(f"{label} is no line and was left out.")
            continue
        except (DXFError, ValueError, ZeroDivisionError) as error:
            raise PackError(f"{name}: {label} cannot be read ({error}): redraw it.") from error
        if not len(path):
            continue
        if entity.dxf.layer.lower() == "axis":
            axis = scale * (path.start.x + path.end.x) / 2
            continue
        strokes += _dxf_strokes(path, scale)
    return chained(strokes), axis, notes


def _dxf_strokes(path: dxf_path.Path, scale: float) -> list[Stroke]:
    strokes = []
    at = path.start
    for command in path.commands():
        start, end = (at.x * scale, at.y * scale), (command.end.x * scale, command.end.y * scale)
        at = command.end
        if math.dist(start, end) < 1e-6:
            continue
        if command.type == dxf_path.Command.LINE_TO:
            strokes.append(Stroke(start, end))
            continue
        controls = [start, *_controls(command, scale), end]
        inner = [_bezier(controls, t) for t in (0.25, 0.5, 0.75)]
        bulge = sagitta(start, inner[1], end)
        arc = Stroke(start, end, bulge)
        round_enough = bulge and all(_on_circle(arc, point) for point in inner)
        strokes.append(arc if round_enough else Stroke(start, end, 0.0, tuple(inner)))
    return strokes


def _controls(command: object, scale: float) -> list[tuple[float, float]]:
    found = []
    for field in ("ctrl", "ctrl1", "ctrl2"):
        control = getattr(command, field, None)
        if control is not None:
            found.append((control.x * scale, control.y * scale))
    return found


def _bezier(controls: Sequence[tuple[float, float]], t: float) -> tuple[float, float]:
    points = [np.array(c) for c in controls]
    while len(points) > 1:
        points = [a + t * (b - a) for a, b in pairwise(points)]
    return float(points[0][0]), float(points[0][1])


def _on_circle(arc: Stroke, point: tuple[float, float]) -> bool:
    """Whether a point lies on an arc within a thousandth of its radius."""
    radius = radius_of(arc)
    dx, dy = arc.end[0] - arc.start[0], arc.end[1] - arc.start[1]
    length = math.hypot(dx, dy)
    off = arc.bulge - math.copysign(radius, arc.bulge)
    centre = (
        (arc.start[0] + arc.end[0]) / 2 + dy / length * off,
        (arc.start[1] + arc.end[1]) / 2 - dx / length * off,
    )
    return abs(math.dist(centre, point) - radius) < 1e-3 * radius + 1e-4
