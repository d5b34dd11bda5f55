"""Half-profiles as drawings: SVG and DXF, read and written in mm.

A drawing shows the right half of a container's outside, the axis as a line of its own named "axis"
(an id in SVG, a layer in DXF). Drawings by others may show the whole outline instead: its middle is
then taken for the axis. Arcs that run smoothly into straight lines at both ends become roundings.
"""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any
from xml.sax import SAXException

import numpy as np
import svgelements
from ezdxf import path as dxf_path
from ezdxf.filemanagement import new as new_drawing
from ezdxf.filemanagement import read as read_drawing
from ezdxf.lldxf.const import DXFError

from giftwrap.core.errors import PackError
from giftwrap.core.form.fillet import fillet_contacts
from giftwrap.core.form.path import Array, bulging
from giftwrap.core.form.profile import outer_profile, profile_legs
from giftwrap.core.model import Body, Corner

MM_PER_PX = 25.4 / 96
"""A CSS pixel (CSS Values and Units, "Absolute lengths")."""
DXF_MM = {0: 1.0, 1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}
"""Millimetres in the units of $INSUNITS: none, inches, feet, mm, cm, m (DXF reference, header variables)."""
JOIN = 0.05
"""Ends closer than this in mm belong together."""
TANGENT = math.radians(1.5)
CURVE_POINTS = 5
"""Corners that stand for one Bézier curve."""
MAX_CORNERS = 64
MAX_OUTLINE = 400


@dataclass(frozen=True)
class Piece:
    """One line, arc or curve between two points, mm with y upwards.

    bulge : how far the middle of an arc lies to the right of the straight line
    through : inner points of a curve
    """

    start: tuple[float, float]
    end: tuple[float, float]
    bulge: float = 0.0
    through: tuple[tuple[float, float], ...] = ()

    def reversed(self) -> Piece:
        """The same piece drawn the other way."""
        return Piece(self.end, self.start, -self.bulge, self.through[::-1])


@dataclass(frozen=True)
class ReadProfile:
    """A half-profile read from a drawing, and what was decided on the way."""

    corners: list[Corner]
    notes: list[str]


def read_profile(data: bytes, name: str) -> ReadProfile:
    """Read a half-profile from an SVG or DXF drawing.

    Raises PackError that says which line or entity could not be read, or what is missing.
    """
    chains, axis, notes = _read(data, name)
    chain = max(chains, key=_length)
    if len(chains) > 1:
        notes.append(f"{name} holds {len(chains)} lines: the longest was taken.")
    return ReadProfile(_corners(_half(chain, axis, name, notes), name), notes)


def read_outline(data: bytes, name: str) -> list[tuple[float, float]]:
    """Read an outline seen from above from an SVG or DXF drawing: points in mm, y away from the front.

    Raises PackError as `read_profile` does, or when the outline is not closed.
    """
    chains, _, _ = _read(data, name)
    chain = max(chains, key=_length)
    if math.dist(chain[0].start, chain[-1].end) > JOIN:
        raise PackError(f"{name}: the outline is open. Close it where it was drawn.")
    points: list[tuple[float, float]] = []
    for piece in chain:
        points.append(piece.start)
        points += piece.through or _along_arc(piece)
    return [(round(x, 3), round(y, 3)) for x, y in points[:MAX_OUTLINE]]


def _along_arc(piece: Piece) -> list[tuple[float, float]]:
    if abs(piece.bulge) < 1e-6:
        return []
    found = bulging(np.array(piece.start), np.array(piece.end), piece.bulge).points[1:-1]
    return [(float(x), float(y)) for x, y in found[:: max(len(found) // 6, 1)]]


def _read(data: bytes, name: str) -> tuple[list[list[Piece]], float | None, list[str]]:
    kind = name.lower().rsplit(".", 1)[-1]
    if kind not in ("svg", "dxf"):
        raise PackError(f"{name} is neither an SVG nor a DXF drawing: save it as one of these.")
    chains, axis, notes = (_read_dxf if kind == "dxf" else _read_svg)(data, name)
    if not chains:
        raise PackError(f"{name} holds no line that could be an outline: draw it as a path.")
    return chains, axis, notes


def write_svg(body: Body) -> str:
    """A body's half-profile as an SVG drawing at its true size. Raises PackError when it cannot be formed."""
    pieces = _pieces(body)
    top = max(max(p.start[1], p.end[1]) for p in pieces)
    wide = max(max(p.start[0], p.end[0]) for p in pieces)
    left, margin = wide + 5, 5.0
    width, height = 2 * left, top + 2 * margin

    def at(point: tuple[float, float]) -> str:
        return f"{point[0] + left:.4f} {top + margin - point[1]:.4f}"

    steps = [f"M{at(pieces[0].start)}"]
    for piece in pieces:
        if piece.through:
            steps += [f"L{at(point)}" for point in (*piece.through, piece.end)]
        elif abs(piece.bulge) > 1e-9:
            radius = _radius(piece)
            sweep = 0 if piece.bulge > 0 else 1
            steps.append(f"A{radius:.5f} {radius:.5f} 0 0 {sweep} {at(piece.end)}")
        else:
            steps.append(f"L{at(piece.end)}")
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.4f}mm" height="{height:.4f}mm" '
        f'viewBox="0 0 {width:.4f} {height:.4f}" fill="none" stroke="#23262b" stroke-width="0.25">\n'
        f'<path id="axis" stroke-dasharray="6 1 1 1" d="M{left:.4f} 0V{height:.4f}"/>\n'
        f'<path id="profile" d="{"".join(steps)}"/>\n</svg>\n'
    )


def write_dxf(body: Body) -> str:
    """A body's half-profile as a DXF drawing in mm. Raises PackError when it cannot be formed."""
    drawing = new_drawing("R2010", units=4)
    drawing.layers.add("PROFILE")
    drawing.layers.add("AXIS")
    space = drawing.modelspace()
    pieces = _pieces(body)
    points: list[tuple[float, float, float]] = []
    for piece in pieces:
        chord = math.dist(piece.start, piece.end)
        # DXF bulge is the tangent of a quarter of the arc's angle, positive to the right of the chord
        points.append((*piece.start, 2 * piece.bulge / chord if chord else 0.0))
        points += [(*point, 0.0) for point in piece.through]
    points.append((*pieces[-1].end, 0.0))
    space.add_lwpolyline(points, format="xyb", dxfattribs={"layer": "PROFILE"})
    top = max(p.end[1] for p in pieces)
    space.add_line((0, -5), (0, top + 5), dxfattribs={"layer": "AXIS"})
    stream = io.StringIO()
    drawing.write(stream)
    return stream.getvalue()


def _pieces(body: Body) -> list[Piece]:
    """The outside from the base's edge to the rim, its roundings as arcs."""
    outer_profile(body)
    legs, roundings, kinds = profile_legs(body)
    contacts = fillet_contacts(legs, roundings)
    pieces = []
    for index, (leg, kind) in enumerate(zip(legs, kinds, strict=True)):
        start, end = contacts[index], contacts[index + 1]
        first = start.after if start else 0.0
        last = end.before if end else float(leg.lengths()[-1])
        inner = [_point(leg.points, leg.lengths(), first + (last - first) * t) for t in (0.0, 0.5, 1.0)]
        if kind == "curve":
            middle = [
                _point(leg.points, leg.lengths(), first + (last - first) * k / 24) for k in range(1, 24)
            ]
            pieces.append(Piece(inner[0], inner[2], 0.0, tuple(middle)))
        else:
            pieces.append(Piece(inner[0], inner[2], _sagitta(*inner)))
        if end is not None:
            after = legs[index + 1]
            next_start = _point(after.points, after.lengths(), end.after)
            centre, a, b = end.centre, np.array(inner[2]), np.array(next_start)
            middle_way = (a - centre) + (b - centre)
            radius = float(np.linalg.norm(a - centre))
            crown = centre + middle_way / np.linalg.norm(middle_way) * radius
            pieces.append(Piece(inner[2], next_start, _sagitta(inner[2], tuple(crown), next_start)))
    return [p for p in pieces[1:] if math.dist(p.start, p.end) > 1e-6]


def _point(points: Array, lengths: Array, at: float) -> tuple[float, float]:
    return (float(np.interp(at, lengths, points[:, 0])), float(np.interp(at, lengths, points[:, 1])))


def _sagitta(start: Sequence[float], middle: Sequence[float], end: Sequence[float]) -> float:
    """How far the middle lies to the right of the line from start to end."""
    dx, dy = end[0] - start[0], end[1] - start[1]
    length = math.hypot(dx, dy)
    mx, my = middle[0] - (start[0] + end[0]) / 2, middle[1] - (start[1] + end[1]) / 2
    found = (mx * dy - my * dx) / length if length else 0.0
    return 0.0 if abs(found) < 1e-7 * max(length, 1.0) else float(found)


def _radius(piece: Piece) -> float:
    half = math.dist(piece.start, piece.end) / 2
    return (half**2 + piece.bulge**2) / (2 * abs(piece.bulge))


def _length(chain: list[Piece]) -> float:
    return sum(math.dist(p.start, p.end) for p in chain)


def _read_svg(data: bytes, name: str) -> tuple[list[list[Piece]], float | None, list[str]]:
    try:
        drawing = svgelements.SVG.parse(io.BytesIO(data), reify=True)
    except (SAXException, SyntaxError, ValueError, TypeError, AttributeError, ZeroDivisionError) as error:
        raise PackError(
            f"{name} is broken: {error}. Open it where it was drawn and save it again."
        ) from error
    chains, axis = [], None
    for number, element in enumerate(drawing.elements(), start=1):
        if not isinstance(element, svgelements.Shape):
            continue
        label = f"<{element.values.get('tag', 'shape')}> {element.id or f'number {number}'}"
        try:
            path = abs(svgelements.Path(element))
            box = path.bbox()
        except (ValueError, TypeError, AttributeError, ZeroDivisionError) as error:
            raise PackError(
                f"{name}: {label} cannot be read ({error}): redraw it as a plain path."
            ) from error
        if box is None:
            continue
        if (element.id or "").lower() == "axis":
            axis = (box[0] + box[2]) / 2 * MM_PER_PX
            continue
        for part in path.as_subpaths():
            chain = [piece for segment in svgelements.Path(part) for piece in _svg_piece(segment)]
            if chain:
                chains.append(chain)
    return chains, axis, []


def _svg_piece(segment: object) -> list[Piece]:
    if isinstance(segment, svgelements.Move):
        return []
    start, end = _svg_point(segment.start), _svg_point(segment.end)  # type: ignore[attr-defined]
    if math.dist(start, end) < 1e-6:
        return []
    if isinstance(segment, svgelements.Arc) and abs(segment.rx - segment.ry) < 1e-3 * abs(segment.rx):
        whole = Piece(start, end, _sagitta(start, _svg_point(segment.point(0.5)), end))
        if abs(segment.sweep) <= math.pi + 1e-6:
            return [whole]
        crown = _svg_point(segment.point(0.5))
        quarter, last = _svg_point(segment.point(0.25)), _svg_point(segment.point(0.75))
        return [
            Piece(start, crown, _sagitta(start, quarter, crown)),
            Piece(crown, end, _sagitta(crown, last, end)),
        ]
    if isinstance(segment, svgelements.CubicBezier | svgelements.QuadraticBezier | svgelements.Arc):
        shares = [k / (CURVE_POINTS - 1) for k in range(1, CURVE_POINTS - 1)]
        return [Piece(start, end, 0.0, tuple(_svg_point(segment.point(t)) for t in shares))]
    return [Piece(start, end)]


def _svg_point(point: object) -> tuple[float, float]:
    return (point.x * MM_PER_PX, -point.y * MM_PER_PX)  # type: ignore[attr-defined]


def _read_dxf(data: bytes, name: str) -> tuple[list[list[Piece]], float | None, list[str]]:
    try:
        text = data.decode("utf-8", errors="replace").replace("\r\n", "\n")
        drawing = read_drawing(io.StringIO(text))
    except (DXFError, ValueError, TypeError, KeyError, IndexError, AttributeError) as error:
        raise PackError(
            f"{name} is broken: {error}. Open it where it was drawn and save it again."
        ) from error
    scale = DXF_MM.get(drawing.header.get("$INSUNITS", 0), 1.0)
    pieces: list[Piece] = []
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
        pieces += _dxf_pieces(path, scale)
    return _chained(pieces), axis, notes


def _dxf_pieces(path: dxf_path.Path, scale: float) -> list[Piece]:
    pieces = []
    at = path.start
    for command in path.commands():
        start, end = (at.x * scale, at.y * scale), (command.end.x * scale, command.end.y * scale)
        at = command.end
        if math.dist(start, end) < 1e-6:
            continue
        if command.type == dxf_path.Command.LINE_TO:
            pieces.append(Piece(start, end))
            continue
        controls = [start, *_controls(command, scale), end]
        inner = [_bezier(controls, t) for t in (0.25, 0.5, 0.75)]
        bulge = _sagitta(start, inner[1], end)
        arc = Piece(start, end, bulge)
        round_enough = bulge and all(_on_circle(arc, point) for point in inner)
        pieces.append(arc if round_enough else Piece(start, end, 0.0, tuple(inner)))
    return pieces


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


def _on_circle(arc: Piece, point: tuple[float, float]) -> bool:
    """Whether a point lies on an arc within a thousandth of its radius."""
    radius = _radius(arc)
    dx, dy = arc.end[0] - arc.start[0], arc.end[1] - arc.start[1]
    length = math.hypot(dx, dy)
    off = arc.bulge - math.copysign(radius, arc.bulge)
    centre = (
        (arc.start[0] + arc.end[0]) / 2 + dy / length * off,
        (arc.start[1] + arc.end[1]) / 2 - dx / length * off,
    )
    return abs(math.dist(centre, point) - radius) < 1e-3 * radius + 1e-4


def _chained(pieces: list[Piece]) -> list[list[Piece]]:
    """Pieces put end to end, whichever way each was drawn."""
    left = list(pieces)
    chains = []
    while left:
        chain = [left.pop(0)]
        grown = True
        while grown:
            grown = False
            for index, piece in enumerate(left):
                for candidate in (piece, piece.reversed()):
                    if math.dist(chain[-1].end, candidate.start) < JOIN:
                        chain.append(candidate)
                    elif math.dist(chain[0].start, candidate.end) < JOIN:
                        chain.insert(0, candidate)
                    else:
                        continue
                    left.pop(index)
                    grown = True
                    break
                if grown:
                    break
        chains.append(chain)
    return chains


def _half(chain: list[Piece], axis: float | None, name: str, notes: list[str]) -> list[Piece]:
    """The part of an outline on one side of its axis, drawn from the base up, the axis at 0."""
    xs = [x for p in chain for x in (p.start[0], p.end[0])]
    closed = math.dist(chain[0].start, chain[-1].end) < JOIN
    if axis is None:
        axis = (min(xs) + max(xs)) / 2 if closed else min(xs)
        where = "its middle" if closed else "its left end"
        notes.append(f"{name} names no axis: {where} was taken for it.")
    moved = [_moved(p, -axis, 0.0) for p in chain]
    if max(x - axis for x in xs) < 0.5 * (axis - min(xs)):
        moved = [_mirrored(p) for p in moved]
    half = [p for p in moved if p.start[0] > -JOIN and p.end[0] > -JOIN and max(p.start[0], p.end[0]) > JOIN]
    chains = _chained(half)
    if not chains:
        raise PackError(f"{name}: nothing lies to the right of the axis. Draw the right half of the outline.")
    best = max(chains, key=_length)
    if best[0].start[1] > best[-1].end[1]:
        best = [p.reversed() for p in reversed(best)]
    while len(best) > 1 and _is_level(best[-1]) and best[-1].end[0] < JOIN:
        best.pop()
    while len(best) > 1 and best[0].start[0] < JOIN and _is_level(best[0]):
        best.pop(0)
    low = min(p.start[1] for p in best)
    return [_moved(p, 0.0, -low) for p in best]


def _is_level(piece: Piece) -> bool:
    return abs(piece.end[1] - piece.start[1]) < JOIN and not piece.through and abs(piece.bulge) < JOIN


def _mirrored(piece: Piece) -> Piece:
    through = tuple((-x, y) for x, y in piece.through)
    start, end = (-piece.start[0], piece.start[1]), (-piece.end[0], piece.end[1])
    return Piece(start, end, -piece.bulge, through)


def _moved(piece: Piece, across: float, up: float) -> Piece:
    through = tuple((x + across, y + up) for x, y in piece.through)
    start = (piece.start[0] + across, piece.start[1] + up)
    return Piece(start, (piece.end[0] + across, piece.end[1] + up), piece.bulge, through)


def _corners(pieces: list[Piece], name: str) -> list[Corner]:
    """Corners of a half-profile; arcs that run into lines at both ends become roundings."""
    corners: list[Corner] = []
    index = 0
    start = _first_rounding(pieces)
    if start is not None:
        corners.append(start)
        index = 1
        pieces = [pieces[0], Piece((start.radius, start.height), pieces[1].end), *pieces[2:]]
    while index < len(pieces):
        piece = pieces[index]
        before = pieces[index - 1] if index else None
        after = pieces[index + 1] if index + 1 < len(pieces) else None
        rounded = _rounding(before, piece, after)
        if rounded and corners:
            corners.append(rounded)
            assert after is not None
            pieces[index + 1] = Piece((rounded.radius, rounded.height), after.end)
            index += 1
            continue
        if not corners or math.dist((corners[-1].radius, corners[-1].height), piece.start) > JOIN:
            corners.append(_corner(piece.start))
        if piece.through:
            corners[-1] = corners[-1].model_copy(update={"leave": "curve"})
            corners += [_corner(point, leave="curve") for point in piece.through]
        elif abs(piece.bulge) > 1e-6:
            corners[-1] = corners[-1].model_copy(update={"leave": "arc", "bulge": round(piece.bulge, 4)})
        if not _rounds_into(pieces, index):
            corners.append(_corner(piece.end))
        index += 1
    kept = corners[:1] + [b for a, b in pairwise(corners) if _apart(a, b) > JOIN]
    if len(kept) > MAX_CORNERS:
        raise PackError(
            f"{name}: the profile has {len(kept)} corners, at most {MAX_CORNERS} can be worked with. "
            "Simplify the line where it was drawn."
        )
    if len(kept) < 2:
        raise PackError(f"{name}: the profile has only one point.")
    return kept


def _apart(a: Corner, b: Corner) -> float:
    return math.dist((a.radius, a.height), (b.radius, b.height))


def _rounds_into(pieces: list[Piece], index: int) -> bool:
    """Whether the next piece is a rounding, so that this one's end is no corner."""
    if index + 2 >= len(pieces):
        return False
    return _rounding(pieces[index], pieces[index + 1], pieces[index + 2]) is not None


def _first_rounding(pieces: list[Piece]) -> Corner | None:
    """The rounding of the base's edge: an arc that leaves the table level and runs into a line."""
    if len(pieces) < 2:
        return None
    arc, after = pieces[0], pieces[1]
    flat = Piece((0.0, arc.start[1]), arc.start)
    return _rounding(flat, arc, after) if arc.start[0] > JOIN else None


def _rounding(before: Piece | None, arc: Piece, after: Piece | None) -> Corner | None:
    """The corner an arc rounds when it touches straight lines at both ends."""
    if before is None or after is None or abs(arc.bulge) < 1e-6 or arc.through:
        return None
    if before.through or after.through or abs(before.bulge) > 1e-6 or abs(after.bulge) > 1e-6:
        return None
    a, b = _way(before), _way(after)
    turn = math.atan2(a[0] * b[1] - a[1] * b[0], a[0] * b[0] + a[1] * b[1])
    if abs(turn) < TANGENT or abs(turn) > math.pi - TANGENT:
        return None
    chord = math.dist(arc.start, arc.end)
    sweep = 4 * math.atan(2 * arc.bulge / chord)
    # an arc bulging to the right turns left
    if abs(sweep - turn) > TANGENT:
        return None
    along = math.atan2(arc.end[1] - arc.start[1], arc.end[0] - arc.start[0])
    entering = along - sweep / 2
    leaning = math.atan2(a[1], a[0]) - entering
    if abs((leaning + math.pi) % (2 * math.pi) - math.pi) > TANGENT:
        return None
    radius = _radius(arc)
    reach = radius * math.tan(abs(turn) / 2)
    return _corner((arc.start[0] + a[0] * reach, arc.start[1] + a[1] * reach), rounding=round(radius, 4))


def _way(piece: Piece) -> tuple[float, float]:
    length = math.dist(piece.start, piece.end)
    return (piece.end[0] - piece.start[0]) / length, (piece.end[1] - piece.start[1]) / length


def _corner(point: tuple[float, float], **more: Any) -> Corner:
    return Corner(
        radius=round(max(point[0], 0.0), 4),
        height=round(max(point[1], 0.0), 4),
        **more,
    )
