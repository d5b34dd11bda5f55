"""Blanks as drawings at 1:1: SVG, DXF and PDF."""

from __future__ import annotations

import io
import re
from collections.abc import Mapping
from typing import Literal
from xml.sax.saxutils import escape

import pikepdf
from ezdxf.enums import TextEntityAlignment
from ezdxf.filemanagement import new as new_drawing
from pikepdf import Array, Dictionary, Name, String

from giftwrap.core.carton.blank import Blank
from giftwrap.core.formats.blank_lines import KINDS, FlatDrawing, FlatLine, LineKind, drawing_of

BlankFormat = Literal["svg", "dxf", "pdf"]
MEDIA_TYPES: dict[BlankFormat, str] = {
    "svg": "image/svg+xml", "dxf": "image/vnd.dxf", "pdf": "application/pdf",
}  # fmt: skip
POINTS_PER_MM = 72 / 25.4
STROKE_MM = 0.25
TYPE_MM = 3.5
EMS_A_LETTER = 0.5
"""About how wide a letter of the standard sans-serif is."""
_COLOURS: dict[LineKind, str] = {
    "cut": "#23262b", "crease": "#b3324c", "perforation": "#a8641f", "emboss": "#4a5a8a", "glue": "#3c7a57",
    "bleed": "#2a7f9e", "safe": "#3c7a57", "middle": "#8a8a86",
}  # fmt: skip
_DASHES: dict[LineKind, tuple[float, ...]] = {
    "cut": (), "crease": (3.0, 1.5), "perforation": (2.0, 1.0), "emboss": (), "glue": (0.5, 1.5),
    "bleed": (0.5, 1.0), "safe": (), "middle": (1.0, 3.0),
}  # fmt: skip
_INKS: dict[LineKind, tuple[float, float, float, float]] = {
    "cut": (0.0, 1.0, 0.0, 0.0),
    "crease": (1.0, 0.0, 0.0, 0.0),
    "perforation": (0.0, 0.5, 1.0, 0.0),
    "emboss": (1.0, 0.7, 0.0, 0.0),
    "glue": (1.0, 0.0, 1.0, 0.0),
    "bleed": (0.8, 0.2, 0.0, 0.0),
    "safe": (0.7, 0.0, 0.7, 0.0),
    "middle": (0.0, 0.0, 0.0, 0.5),
}
"""CMYK that separations are shown in; what they are is their name."""
_STEPS: dict[LineKind, tuple[str, str]] = {
    "cut": ("Structural", "Cutting"),
    "crease": ("Structural", "Creasing"),
    "perforation": ("Structural", "Perforating"),
    "emboss": ("Structural", "Embossing"),
    "glue": ("Structural", "Gluing"),
    "bleed": ("Structural", "Bleed"),
    "safe": ("Positions", "ContentArea"),
    "middle": ("Positions", "Imprinting"),
}
"""Groups and types of ISO 19593-1 (processing steps in PDF); from memory."""


def write_blank(blanks: Mapping[str, Blank], form: BlankFormat) -> bytes:
    """A carton's blanks, side by side on one sheet, cut and crease told apart."""
    return write_drawing(drawing_of(blanks), form)


def write_drawing(drawing: FlatDrawing, form: BlankFormat) -> bytes:
    """A drawing at 1:1 mm, its kinds of line told apart."""
    return {"svg": _svg, "dxf": _dxf, "pdf": _pdf}[form](drawing)


def _svg(drawing: FlatDrawing) -> bytes:
    width, height = drawing.size
    groups = []
    for kind in KINDS:
        lines = [line for line in drawing.lines if line.kind == kind]
        if not lines:
            continue
        dash = f' stroke-dasharray="{" ".join(f"{d:g}" for d in _DASHES[kind])}"' if _DASHES[kind] else ""
        paths = "".join(f'<path d="{_path(line, height)}"/>' for line in lines)
        groups.append(f'<g id="{kind}" stroke="{_COLOURS[kind]}"{dash}>{paths}</g>')
    names = "".join(
        f'<text x="{x:.3f}" y="{height - y:.3f}">{escape(name)}</text>' for name, (x, y) in drawing.names
    )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.4f}mm" height="{height:.4f}mm" '
        f'viewBox="0 0 {width:.4f} {height:.4f}" fill="none" stroke-width="{STROKE_MM}">\n'
        + "\n".join(groups)
        + f'\n<g id="names" fill="#8a8a86" stroke="none" font-family="Instrument Sans" font-size="{TYPE_MM}" '
        f'text-anchor="middle">{names}</g>\n</svg>\n'
    ).encode()


def _path(line: FlatLine, height: float) -> str:
    points = line.points[:-1] if line.closed else line.points
    steps = "L".join(f"{x:.4f} {height - y:.4f}" for x, y in points)
    return f"M{steps}{'Z' if line.closed else ''}"


def _dxf(drawing: FlatDrawing) -> bytes:
    document = new_drawing("R2010", units=4, setup=["linetypes"])
    for kind, colour in zip(KINDS, (7, 1, 30, 5, 3, 4, 3, 8), strict=True):
        linetype = "DASHED" if _DASHES[kind] else "CONTINUOUS"
        document.layers.add(kind.upper(), color=colour, linetype=linetype)
    document.layers.add("NAMES", color=8)
    space = document.modelspace()
    for line in drawing.lines:
        points = line.points[:-1] if line.closed else line.points
        space.add_lwpolyline(points, close=line.closed, dxfattribs={"layer": line.kind.upper()})
    for name, (x, y) in drawing.names:
        text = space.add_text(name, height=TYPE_MM, dxfattribs={"layer": "NAMES"})
        text.set_placement((x, y), align=TextEntityAlignment.MIDDLE_CENTER)
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode()


def _pdf(drawing: FlatDrawing) -> bytes:
    """Each kind a separation of its own that overprints, on a layer that says its processing step."""
    pdf = pikepdf.new()
    used = [kind for kind in KINDS if any(line.kind == kind for line in drawing.lines)]
    layers, spaces, steps = Dictionary(), Dictionary(), []
    for kind in used:
        step = Dictionary(
            Type=Name.OCG,
            Name=String(kind.capitalize()),
            GTS_Metadata=Dictionary(
                Type=Name.GTS_Metadata,
                GTS_ProcStepsGroup=Name(f"/{_STEPS[kind][0]}"),
                GTS_ProcStepsType=Name(f"/{_STEPS[kind][1]}"),
            ),
        )
        layers[f"/{kind}"] = step = pdf.make_indirect(step)
        steps.append(step)
        tint = Dictionary(
            FunctionType=2, Domain=Array([0, 1]), N=1, C0=Array([0, 0, 0, 0]), C1=Array(list(_INKS[kind]))
        )
        spaces[f"/{kind}"] = Array([Name.Separation, Name(f"/{kind.capitalize()}"), Name.DeviceCMYK, tint])
    state = Dictionary(over=Dictionary(Type=Name.ExtGState, OP=True, op=True, OPM=1))
    font = Dictionary(
        Type=Name.Font, Subtype=Name.Type1, BaseFont=Name.Helvetica, Encoding=Name.WinAnsiEncoding
    )
    resources = Dictionary(
        Properties=layers, ColorSpace=spaces, ExtGState=state, Font=Dictionary(names=pdf.make_indirect(font))
    )
    size = [side * POINTS_PER_MM for side in drawing.size]
    page = pdf.add_blank_page()
    page.obj.MediaBox = Array([0, 0, *size])
    page.obj.Resources = resources
    for box, off in (("TrimBox", drawing.trim), ("BleedBox", drawing.trim - drawing.bleed)):
        left = off * POINTS_PER_MM
        page.obj[f"/{box}"] = Array([left, left, size[0] - left, size[1] - left])
    page.obj.Contents = pdf.make_stream(_content(drawing, used))
    pdf.Root.OCProperties = Dictionary(
        OCGs=Array(steps), D=Dictionary(Order=Array(steps), ON=Array(steps), BaseState=Name.ON)
    )
    stream = io.BytesIO()
    pdf.save(stream)
    return stream.getvalue()


def _content(drawing: FlatDrawing, used: list[LineKind]) -> bytes:
    scale = POINTS_PER_MM
    parts = [f"q {scale:.8f} 0 0 {scale:.8f} 0 0 cm {STROKE_MM} w 1 j /over gs"]
    for kind in used:
        dash = " ".join(f"{d:g}" for d in _DASHES[kind])
        parts.append(f"/OC /{kind} BDC /{kind} CS 1 SCN [{dash}] 0 d")
        for line in (line for line in drawing.lines if line.kind == kind):
            points = line.points[:-1] if line.closed else line.points
            steps = " ".join(f"{x:.5f} {y:.5f} {'l' if k else 'm'}" for k, (x, y) in enumerate(points))
            parts.append(f"{steps} {'s' if line.closed else 'S'}")
        parts.append("EMC")
    parts.append(f"0.5 g BT /names {TYPE_MM} Tf")
    for name, (x, y) in drawing.names:
        word = re.sub(r"([\\()])", r"\\\1", name.encode("cp1252", "replace").decode("cp1252"))
        left = x - TYPE_MM * EMS_A_LETTER * len(name) / 2  # type begins where it is placed
        parts.append(f"1 0 0 1 {left:.3f} {y:.3f} Tm ({word}) Tj")
    return "\n".join([*parts, "ET Q"]).encode("cp1252")
