"""The lines of a PDF page, with the layer, ink and dash that each is drawn in."""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any

import numpy as np
import pikepdf

from giftwrap.core.errors import PackError
from giftwrap.core.formats.blank_out import EMS_A_LETTER
from giftwrap.core.mesh.path import Array

FLATTENED = 0.02
"""Mm by which chords may leave the curves they stand for."""
MM_PER_POINT = 25.4 / 72


@dataclass
class DrawnLine:
    """A line of a drawing: `points` (n, 2) in mm, y up; `called` after its layer, ink or group."""

    called: str
    colour: str
    dashed: bool
    points: Array


def read_pdf(data: bytes, name: str) -> tuple[list[DrawnLine], list[tuple[str, float, float]]]:
    """The lines of a PDF's first page and what is written on it; mm. Raises PackError when it is broken."""
    try:
        with pikepdf.open(io.BytesIO(data)) as pdf:
            page = pdf.pages[0]
            walker = _PdfLines(page.obj.get("/Resources", pikepdf.Dictionary()))
            walker.walk(page)
            return walker.lines, walker.names
    except (pikepdf.PdfError, ValueError, TypeError, KeyError, IndexError, AttributeError) as error:
        raise PackError(
            f"{name} is broken or locked ({str(error)[:120]}): save it again where it was drawn."
        ) from error


class _PdfLines:
    """Follows the drawing operators of a PDF page (ISO 32000, 8.2) as far as lines go."""

    def __init__(self, resources: Any) -> None:
        self.lines: list[DrawnLine] = []
        self.names: list[tuple[str, float, float]] = []
        self._resources = resources
        self._matrix = np.diag([MM_PER_POINT, MM_PER_POINT, 1.0])
        self._ink, self._dashed = "", False
        self._layers: list[str] = []
        self._stack: list[tuple[Array, str, bool]] = []
        self._paths: list[list[tuple[float, float]]] = []
        self._text, self._font_size = np.eye(3), 0.0

    def walk(self, page: Any) -> None:
        """Follow one page."""
        for step in pikepdf.parse_content_stream(page):
            action = getattr(self, f"_on_{_OPERATORS.get(str(step.operator), '')}", None)
            if action is not None:
                action(list(step.operands))

    def _on_save(self, _: list[Any]) -> None:
        self._stack.append((self._matrix, self._ink, self._dashed))

    def _on_restore(self, _: list[Any]) -> None:
        if self._stack:
            self._matrix, self._ink, self._dashed = self._stack.pop()

    def _on_matrix(self, numbers: list[Any]) -> None:
        self._matrix = _pdf_matrix(numbers) @ self._matrix

    def _on_space(self, names: list[Any]) -> None:
        spaces = self._resources.get("/ColorSpace", {})
        space = list(spaces[str(names[0])]) if str(names[0]) in spaces else [names[0]]
        separation = len(space) > 1 and str(space[0]) == "/Separation"
        self._ink = str(space[1])[1:] if separation else str(names[0])

    def _on_colour(self, numbers: list[Any]) -> None:
        if len(numbers) > 1 or not self._ink:
            self._ink = "ink " + " ".join(f"{float(n):g}" for n in numbers)

    def _on_dash(self, operands: list[Any]) -> None:
        self._dashed = len(operands[0]) > 0

    def _on_begin_layer(self, operands: list[Any]) -> None:
        called = ""
        if len(operands) > 1 and str(operands[0]) == "/OC":
            group = self._resources.get("/Properties", {}).get(str(operands[1]))
            called = "" if group is None else str(group.get("/Name", ""))
        self._layers.append(called)

    def _on_end_layer(self, _: list[Any]) -> None:
        if self._layers:
            self._layers.pop()

    def _on_move(self, numbers: list[Any]) -> None:
        self._paths.append([self._at(*numbers)])

    def _on_line(self, numbers: list[Any]) -> None:
        if self._paths:
            self._paths[-1].append(self._at(*numbers))

    def _on_curve(self, numbers: list[Any]) -> None:
        if self._paths:
            start = self._paths[-1][-1]
            controls = [start, *(self._at(*numbers[k : k + 2]) for k in (0, 2, 4))]
            self._paths[-1] += _bezier_points(np.array(controls))

    def _on_rectangle(self, numbers: list[Any]) -> None:
        x, y, w, h = (float(n) for n in numbers)
        corners = [(x, y), (x + w, y), (x + w, y + h), (x, y + h), (x, y)]
        self._paths.append([self._at(*corner) for corner in corners])

    def _on_close(self, _: list[Any]) -> None:
        if self._paths:
            self._paths[-1].append(self._paths[-1][0])

    def _on_close_stroke(self, operands: list[Any]) -> None:
        self._on_close(operands)
        self._on_stroke(operands)

    def _on_stroke(self, _: list[Any]) -> None:
        called = next((layer for layer in reversed(self._layers) if layer), "") or self._ink
        for path in self._paths:
            self.lines.append(
                DrawnLine(called, self._ink, self._dashed, np.array(path, float).reshape(-1, 2))
            )
        self._paths = []

    def _on_forget(self, _: list[Any]) -> None:
        self._paths = []

    def _on_font(self, operands: list[Any]) -> None:
        self._font_size = float(operands[1])

    def _on_text_matrix(self, numbers: list[Any]) -> None:
        self._text = _pdf_matrix(numbers)

    def _on_text(self, operands: list[Any]) -> None:
        middle = self._font_size * EMS_A_LETTER * len(str(operands[0])) / 2
        x, y, _ = np.array([middle, 0.0, 1.0]) @ self._text @ self._matrix
        self.names.append((str(operands[0]), float(x), float(y)))

    def _at(self, x: Any, y: Any) -> tuple[float, float]:
        place = np.array([float(x), float(y), 1.0]) @ self._matrix
        return float(place[0]), float(place[1])


_OPERATORS = {
    "q": "save", "Q": "restore", "cm": "matrix", "CS": "space", "SC": "colour", "SCN": "colour",
    "G": "colour", "RG": "colour", "K": "colour", "d": "dash", "BDC": "begin_layer", "BMC": "begin_layer",
    "EMC": "end_layer", "m": "move", "l": "line", "c": "curve", "re": "rectangle", "h": "close",
    "S": "stroke", "s": "close_stroke", "B": "stroke", "b": "close_stroke", "f": "forget", "F": "forget",
    "f*": "forget", "n": "forget", "Tf": "font", "Tm": "text_matrix", "Tj": "text",
}  # fmt: skip


def _pdf_matrix(numbers: list[Any]) -> Array:
    a, b, c, d, e, f = (float(n) for n in numbers)
    return np.array([[a, b, 0.0], [c, d, 0.0], [e, f, 1.0]])


def _bezier_points(controls: Array) -> list[tuple[float, float]]:
    length = float(np.linalg.norm(np.diff(controls, axis=0), axis=1).sum())
    steps = int(np.clip(np.ceil(np.sqrt(length / (8 * FLATTENED)) * 2), 2, 200))
    t = np.linspace(0, 1, steps + 1)[1:, None]
    a, b, c, d = controls
    points = a * (1 - t) ** 3 + 3 * b * t * (1 - t) ** 2 + 3 * c * t**2 * (1 - t) + d * t**3
    return [(float(x), float(y)) for x, y in points]
