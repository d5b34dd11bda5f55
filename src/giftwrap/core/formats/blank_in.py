"""Blanks from drawings by others: the lines of an SVG, DXF or PDF, told apart as cut, crease and others."""

from __future__ import annotations

import io
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any
from xml.sax import SAXException

import numpy as np
import shapely
import svgelements
from ezdxf import path as dxf_path
from ezdxf.filemanagement import read as read_drawing
from ezdxf.lldxf.const import DXFError
from shapely import LineString, Polygon

from giftwrap.core.carton.blank import MET
from giftwrap.core.carton.linework import GRID, TOLERANCE, FoundBlank, blank_from_lines
from giftwrap.core.errors import PackError
from giftwrap.core.formats.blank_pdf import FLATTENED, DrawnLine, read_pdf
from giftwrap.core.formats.profile_dxf import DXF_MM
from giftwrap.core.formats.profile_svg import MM_PER_PX
from giftwrap.core.mesh.path import Array
from giftwrap.core.reading import DRAWING, read_apart

MOST_POINTS = 60_000
MAX_BYTES = 20_000_000
MOST_OUTLINE = 1200
"""Points of an outline that is read for a part of a panel."""
_WORDS: Mapping[str, str] = {
    "cut": r"\b(cut|cutting|kiss|trim|knife|die)",
    "crease": r"\b(crease|creasing|fold|score|scoring|bend)",
    "perforation": r"\b(perf)",
    "glue": r"\b(glue|gluing|adhesive)",
    "emboss": r"\b(emboss|deboss)",
}
"""What layers, inks and groups are called that hold lines of a kind (common practice)."""
_OTHERS = r"\b(name|text|dimension|note|legend|bleed|safe|print|art|guide)"


@dataclass(frozen=True)
class LineGroup:
    """Lines of a drawing that are drawn alike: on one layer, in one colour and dash.

    called : layer, ink or group; kind : what they are taken for, None for what is no line of the blank
    """

    called: str
    colour: str
    dashed: bool
    kind: str | None
    lines: tuple[tuple[tuple[float, float], ...], ...]


@dataclass(frozen=True)
class ReadLines:
    """All lines of a drawing in mm, y up, and names that are written on it with their places."""

    groups: tuple[LineGroup, ...]
    names: tuple[tuple[str, tuple[float, float]], ...]


def read_lines(data: bytes, name: str) -> ReadLines:
    """Read the lines of an SVG, DXF or PDF, and say what each group of them is taken for.

    Raises PackError that says what could not be read, or that it takes more to read than it may.
    """
    if len(data) > MAX_BYTES:
        raise PackError(
            f"{name} is {len(data) / 1e6:.0f} MB: a drawing may be at most {MAX_BYTES / 1e6:.0f} MB. Leave "
            "only the blank in it."
        )
    head, _ = read_apart(f"{__name__}:lines_answer", data, name, limits=DRAWING, refusal=PackError, name=name)
    groups = []
    for group in head["groups"]:
        lines = tuple(tuple((x, y) for x, y in line) for line in group["lines"])
        groups.append(LineGroup(group["called"], group["colour"], group["dashed"], group["kind"], lines))
    return ReadLines(tuple(groups), tuple((word, (x, y)) for word, x, y in head["names"]))


def read_blank(
    data: bytes, name: str, *, kinds: Mapping[int, str | None] | None = None, tolerance: float = TOLERANCE
) -> FoundBlank:
    """Read a blank; `kinds` says by number what groups of lines are, where they were taken for others.

    Raises PackError as `read_lines` and `blank_from_lines` do.
    """
    return folded_lines(read_lines(data, name), kinds, tolerance=tolerance)


def folded_lines(
    found: ReadLines, kinds: Mapping[int, str | None] | None = None, *, tolerance: float = TOLERANCE
) -> FoundBlank:
    """The blank that lines are, told apart as `read_blank` does. Raises PackError as it does."""
    chosen = {i: group.kind for i, group in enumerate(found.groups)} | dict(kinds or {})

    def of(kind: str) -> list[LineString]:
        groups = (group for i, group in enumerate(found.groups) if chosen[i] == kind)
        return [LineString(line) for group in groups for line in group.lines]

    return blank_from_lines(
        of("cut"), of("crease"), tears=of("perforation"), names=found.names, tolerance=tolerance
    )


def closed_outline(data: bytes, name: str) -> Polygon:
    """The largest closed outline in a drawing, mm, y up; what lies within it does not matter.

    Raises PackError that says what could not be read.
    """
    lines = [LineString(line) for group in read_lines(data, name).groups for line in group.lines]
    closed = list(shapely.polygonize([shapely.union_all(lines, grid_size=GRID)]).geoms)
    whole = shapely.union_all([Polygon(face.exterior) for face in closed])
    parts = [part for part in getattr(whole, "geoms", [whole]) if isinstance(part, Polygon)]
    largest = max(parts, key=lambda part: part.area, default=Polygon())
    if largest.area < MET:
        raise PackError(f"{name} has no closed outline: draw one shape whose line comes back to its start.")
    size = float(max(np.ptp(np.array(largest.exterior.coords), axis=0)))
    tolerance = 2e-4 * size
    found = Polygon(largest.exterior).simplify(tolerance)
    while len(found.exterior.coords) > MOST_OUTLINE:
        tolerance *= 2
        found = Polygon(largest.exterior).simplify(tolerance)
    return found


def lines_answer(data: bytes, name: str) -> tuple[dict[str, Any], bytes]:
    """`read_lines` as it is done in the reading process."""
    kind = name.lower().rsplit(".", 1)[-1]
    readers: dict[str, Callable[[bytes, str], tuple[list[DrawnLine], list[tuple[str, float, float]]]]]
    readers = {"svg": _read_svg, "dxf": _read_dxf, "pdf": read_pdf}
    if kind not in readers:
        raise PackError(f"{name} is neither an SVG, a DXF nor a PDF drawing: save it as one of these.")
    lines, names = readers[kind](data, name)
    lines = [line for line in lines if len(line.points) > 1]
    if not lines:
        raise PackError(f"{name} holds no lines: draw the blank as outlines, not as a picture.")
    count = sum(len(line.points) for line in lines)
    if count > MOST_POINTS:
        raise PackError(f"{name} has {count} points on its lines, at most {MOST_POINTS} are read.")
    if not all(np.isfinite(line.points).all() for line in lines):
        raise PackError(f"{name} has places that are no numbers: save it again where it was drawn.")
    return {"groups": _grouped(lines), "names": [[w[:60], x, y] for w, x, y in names[:400]]}, b""


def _grouped(lines: Sequence[DrawnLine]) -> list[dict[str, Any]]:
    groups: dict[tuple[str, str, bool], list[DrawnLine]] = {}
    for line in lines:
        groups.setdefault((line.called, line.colour, line.dashed), []).append(line)
    kinds = {key: _kind_called(key[0]) for key in groups}
    if "cut" not in kinds.values():
        for key in groups:
            if kinds[key] == "":
                kinds[key] = "crease" if key[2] else "cut"
        solid = [key for key in groups if kinds[key] == "cut"]
        if len(solid) > 1 and "crease" not in kinds.values():
            # told apart by colour alone: what reaches furthest is the outline
            outer = max(solid, key=lambda key: _reach(groups[key]))
            kinds |= {key: "crease" for key in solid if key != outer}
    return [
        {
            "called": called[:60],
            "colour": colour,
            "dashed": dashed,
            "kind": kinds[called, colour, dashed] or None,
            "lines": [np.round(line.points, 5).tolist() for line in members],
        }
        for (called, colour, dashed), members in groups.items()
    ]


def _kind_called(called: str) -> str | None:
    """What lines of a name are; "" when it does not say."""
    word = re.sub(r"[_\-]+", " ", called.lower())
    for kind, pattern in _WORDS.items():
        if re.search(pattern, word):
            return kind
    return None if re.search(_OTHERS, word) else ""


def _reach(lines: Sequence[DrawnLine]) -> float:
    points = np.vstack([line.points for line in lines])
    return float(np.prod(np.ptp(points, axis=0)))


def _read_svg(data: bytes, name: str) -> tuple[list[DrawnLine], list[tuple[str, float, float]]]:
    try:
        drawing = svgelements.SVG.parse(io.BytesIO(data), reify=True)
    except (SAXException, SyntaxError, ValueError, TypeError, AttributeError, ZeroDivisionError) as error:
        raise PackError(
            f"{name} is broken: {error}. Open it where it was drawn and save it again."
        ) from error
    lines: list[DrawnLine] = []
    names: list[tuple[str, float, float]] = []

    def walk(element: Any, called: str) -> None:
        own = str(getattr(element, "id", None) or "") or called
        if isinstance(element, svgelements.Group):
            for child in element:
                walk(child, own)
        elif isinstance(element, svgelements.Text):
            at = svgelements.Point(element.x, element.y) * element.transform
            names.append((str(element.text or ""), at.x * MM_PER_PX, -at.y * MM_PER_PX))
        elif isinstance(element, svgelements.Shape):
            dash = str(element.values.get("stroke-dasharray") or "none")
            for part in abs(svgelements.Path(element)).as_subpaths():
                points = _flat_svg(svgelements.Path(part)) * MM_PER_PX * [1, -1]
                colour = str(
                    element.stroke.hex if element.stroke and element.stroke.value is not None else ""
                )
                lines.append(DrawnLine(own, colour, dash not in ("none", ""), points))

    for element in drawing:
        walk(element, "")
    return lines, names


def _broken(name: str, reason: str) -> PackError:
    short = " ".join(reason.split()).rstrip(".")[:120]
    return PackError(f"{name} is broken: {short}. Open it where it was drawn and save it again.")


def _flat_svg(path: Any) -> Array:
    points: list[tuple[float, float]] = []
    for segment in path:
        if isinstance(segment, svgelements.Move):
            continue
        if segment.start is None or segment.end is None:
            continue
        steps = 1
        if not isinstance(segment, svgelements.Line | svgelements.Close):
            length = float(segment.length(error=1e-3))
            steps = int(np.clip(np.ceil(np.sqrt(length / (8 * FLATTENED / MM_PER_PX)) * 4), 2, 200))
        for k in range(0 if not points else 1, steps + 1):
            point = segment.point(k / steps)
            points.append((float(point.x), float(point.y)))
    return np.array(points, float).reshape(-1, 2)


def _read_dxf(data: bytes, name: str) -> tuple[list[DrawnLine], list[tuple[str, float, float]]]:
    try:
        drawing = read_drawing(io.StringIO(data.decode("utf-8", errors="replace").replace("\r\n", "\n")))
    except (DXFError, ValueError, TypeError, KeyError, IndexError, AttributeError) as error:
        reason = " ".join(str(error).split()).rstrip(".")
        raise PackError(
            f"{name} is broken: {reason}. Open it where it was drawn and save it again."
        ) from error
    scale = DXF_MM.get(drawing.header.get("$INSUNITS", 0), 1.0)
    lines: list[DrawnLine] = []
    names: list[tuple[str, float, float]] = []
    for entity in drawing.modelspace():
        if entity.dxftype() == "TEXT":
            _, at, _ = entity.get_placement()
            names.append((entity.dxf.text, at.x * scale, at.y * scale))
            continue
        try:
            paths = list(dxf_path.make_path(entity).sub_paths())
        except (TypeError, DXFError, ValueError, ZeroDivisionError):
            continue
        layer = drawing.layers.get(entity.dxf.layer) if entity.dxf.layer in drawing.layers else None
        line_type = entity.dxf.get("linetype", "BYLAYER")
        if line_type == "BYLAYER" and layer is not None:
            line_type = layer.dxf.linetype
        colour = entity.dxf.get("color", 256)
        colour = layer.color if colour == 256 and layer is not None else colour
        for path in paths:
            points = np.array([(p.x, p.y) for p in path.flattening(FLATTENED / scale)], float)
            dashed = line_type.upper() not in ("CONTINUOUS", "BYLAYER", "BYBLOCK")
            lines.append(
                DrawnLine(str(entity.dxf.layer), f"colour {colour}", dashed, points.reshape(-1, 2) * scale)
            )
    return lines, names
