"""Half-profiles as SVG drawings at their true size."""

from __future__ import annotations

import io
import math
from xml.sax import SAXException

import svgelements

from giftwrap.core.errors import PackError
from giftwrap.core.formats.strokes import Stroke, body_strokes, radius_of, sagitta
from giftwrap.core.model import Body

MM_PER_PX = 25.4 / 96
"""A CSS pixel (CSS Values and Units, "Absolute lengths")."""
CURVE_POINTS = 5
"""Corners that stand for one Bézier curve."""


def write_svg(body: Body) -> str:
    """A body's half-profile as an SVG drawing at its true size. Raises PackError when it cannot be formed."""
    strokes = body_strokes(body)
    top = max(max(p.start[1], p.end[1]) for p in strokes)
    wide = max(max(p.start[0], p.end[0]) for p in strokes)
    left, margin = wide + 5, 5.0
    width, height = 2 * left, top + 2 * margin

    def at(point: tuple[float, float]) -> str:
        return f"{point[0] + left:.4f} {top + margin - point[1]:.4f}"

    steps = [f"M{at(strokes[0].start)}"]
    for stroke in strokes:
        if stroke.through:
            steps += [f"L{at(point)}" for point in (*stroke.through, stroke.end)]
        elif abs(stroke.bulge) > 1e-9:
            radius = radius_of(stroke)
            sweep = 0 if stroke.bulge > 0 else 1
            steps.append(f"A{radius:.5f} {radius:.5f} 0 0 {sweep} {at(stroke.end)}")
        else:
            steps.append(f"L{at(stroke.end)}")
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.4f}mm" height="{height:.4f}mm" '
        f'viewBox="0 0 {width:.4f} {height:.4f}" fill="none" stroke="#23262b" stroke-width="0.25">\n'
        f'<path id="axis" stroke-dasharray="6 1 1 1" d="M{left:.4f} 0V{height:.4f}"/>\n'
        f'<path id="profile" d="{"".join(steps)}"/>\n</svg>\n'
    )


def read_svg(data: bytes, name: str) -> tuple[list[list[Stroke]], float | None, list[str]]:
    """The lines of an SVG, where its axis is, and remarks; mm. Raises PackError when it is broken."""
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
            chain = [stroke for segment in svgelements.Path(part) for stroke in _svg_piece(segment)]
            if chain:
                chains.append(chain)
    return chains, axis, []


def _svg_piece(segment: object) -> list[Stroke]:
    if isinstance(segment, svgelements.Move):
        return []
    start, end = _svg_point(segment.start), _svg_point(segment.end)  # type: ignore[attr-defined]
    if math.dist(start, end) < 1e-6:
        return []
    if isinstance(segment, svgelements.Arc) and abs(segment.rx - segment.ry) < 1e-3 * abs(segment.rx):
        whole = Stroke(start, end, sagitta(start, _svg_point(segment.point(0.5)), end))
        if abs(segment.sweep) <= math.pi + 1e-6:
            return [whole]
        crown = _svg_point(segment.point(0.5))
        quarter, last = _svg_point(segment.point(0.25)), _svg_point(segment.point(0.75))
        return [
            Stroke(start, crown, sagitta(start, quarter, crown)),
            Stroke(crown, end, sagitta(crown, last, end)),
        ]
    if isinstance(segment, svgelements.CubicBezier | svgelements.QuadraticBezier | svgelements.Arc):
        shares = [k / (CURVE_POINTS - 1) for k in range(1, CURVE_POINTS - 1)]
        return [Stroke(start, end, 0.0, tuple(_svg_point(segment.point(t)) for t in shares))]
    return [Stroke(start, end)]


def _svg_point(point: object) -> tuple[float, float]:
    return (point.x * MM_PER_PX, -point.y * MM_PER_PX)  # type: ignore[attr-defined]
