"""PDFs of a page, made for tests: what is on them is written by hand."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

import pikepdf
from pikepdf import Array, Dictionary, Name, Stream

MM = 72 / 25.4


def document(
    content: str,
    *,
    size: tuple[float, float] = (60.0, 40.0),
    bleed: float = 0.0,
    inks: Sequence[str] = (),
    resources: dict[str, Any] | None = None,
    states: Any = (),
    pages: int = 1,
    **saving: Any,
) -> bytes:
    """A PDF whose pages are `size` mm when they are trimmed of `bleed` mm; content in points from the trim's
    lower left corner. Spot inks are colour spaces /Spot0, /Spot1 …, shown as yellow in CMYK; /Over and /Knock
    are states that overprint and do not; /Flat overprints with all of CMYK, even what is nothing of it."""
    pdf = pikepdf.new()
    width, height, out = (size[0] + 2 * bleed) * MM, (size[1] + 2 * bleed) * MM, bleed * MM
    spaces = Dictionary()
    for number, ink in enumerate(inks):
        tint = Dictionary(FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=[0, 0, 1, 0], N=1)
        spaces[f"/Spot{number}"] = Array([Name.Separation, Name(f"/{ink}"), Name.DeviceCMYK, tint])
    states = Dictionary(
        Over=Dictionary(OP=True, op=True, OPM=1),
        Flat=Dictionary(OP=True, op=True, OPM=0),
        Knock=Dictionary(OP=False, op=False),
        **{str(name).removeprefix("/"): state for name, state in dict(states).items()},
    )
    for _ in range(pages):
        page = pdf.add_blank_page(page_size=(width, height))
        page.obj.TrimBox = Array([out, out, width - out, height - out])
        page.obj.Resources = Dictionary(ColorSpace=spaces, ExtGState=states, **(resources or {}))
        page.obj.Contents = Stream(pdf, f"1 0 0 1 {out:.6f} {out:.6f} cm\n{content}".encode())
    stream = io.BytesIO()
    pdf.save(stream, **saving)
    return stream.getvalue()


def rectangle(left: float, foot: float, width: float, height: float) -> str:
    """The path of one, mm."""
    return " ".join(f"{v * MM:.6f}" for v in (left, foot, width, height)) + " re"


SPOTTED = (
    f"0.2 0.8 0 0 k {rectangle(0, 0, 60, 40)} f "
    f"/Spot0 cs 0.5 scn {rectangle(5, 5, 20, 20)} f 1 scn {rectangle(30, 5, 20, 20)} f "
    f"/Knock gs 0 0 0 1 k {rectangle(10, 10, 5, 5)} f /Over gs 0 0 0 1 k {rectangle(35, 10, 5, 5)} f"
)
"""Content with half of a spot ink and all of it, and black on each: knocking out, and overprinting."""
