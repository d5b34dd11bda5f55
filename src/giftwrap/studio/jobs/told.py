"""What pages are told of a shaped pack, by the kind of its form."""

from typing import Literal

from ninja import Schema

from giftwrap.core import model as core
from giftwrap.core.model.document import HexColour
from giftwrap.core.model.material import Clear, Cloudy, Metal, Opaque

Outline = list[tuple[float, float]]


class MeshOut(Schema):
    """Triangles in base64: 32-bit floats, signed bytes (127 is 1), unsigned 16- or, if wide, 32-bit."""

    positions: str
    normals: str
    uvs: str | None
    faces: str
    wide: bool


class SurfaceOut(Schema):
    """One surface to draw: `before` is the part that it touches on its outer side, if that is not air,
    `colour` what it is drawn in, and `panel` the index of the panel whose print it carries."""

    name: str
    part: str
    group: str
    panel: int | None
    material: Clear | Cloudy | Opaque | Metal
    before: str | None
    colour: HexColour
    mesh: MeshOut


class SheetOut(Schema):
    """A label as laid.

    wall : of the body behind it, if it is wound around that; around : mm around it there
    deepest : the darkest colour that its stock's shine leaves
    tapers : whether it lies on a wall that narrows; outline : what it is lying flat when it is developed, mm
        from its lower left corner; cut : what it is cut to, if that is no rectangle, mm from that of its page
    mean, worst : by how much it is stretched, as shares
    shrink : of a sleeve: mm up the film, and how far it shrinks there
    pulled : whether it is pulled narrower or wider somewhere than elsewhere
    """

    name: str
    wall: Outline
    around: float | None
    deepest: HexColour | None
    tapers: bool
    outline: Outline | None
    cut: Outline | None
    mean: float
    worst: float
    shrink: Outline | None
    pulled: bool


class ZoneOut(Schema):
    name: str
    bottom: float
    top: float
    wall: float


class FactsOut(Schema):
    height: float
    diameter: float
    depth: float
    rim_height: float
    floor_height: float
    least_fill: float
    brimful_ml: float
    outer_ml: float
    contents_ml: float | None
    headspace_ml: float | None
    nominal_fill_height: float | None
    body_g: float
    closure_g: float
    contents_g: float
    empty_g: float
    filled_g: float
    triangles: int
    cautions: list[str]


class PartOutline(Schema):
    part: str
    points: Outline


class CrossSectionOut(Schema):
    """A cross-section seen from above, the front at the bottom."""

    height: float
    outer: Outline
    inner: Outline | None


class DrawingOut(Schema):
    """Lines in mm from the axis and up; `limits` is the largest rounding of each corner."""

    outer: Outline
    inner: Outline
    contents: Outline | None
    closure: list[PartOutline]
    sections: list[CrossSectionOut]
    limits: list[float | None]


class VesselOut(Schema):
    """Everything a page needs to show a vessel; `panels` are its labels, then what is printed on models that
    were added to it."""

    kind: Literal["vessel"] = "vessel"
    facts: FactsOut
    drawing: DrawingOut
    zones: list[ZoneOut]
    sheets: list[SheetOut]
    panels: list[core.Printed]
    surfaces: list[SurfaceOut]
    parts: list[str]


class CreaseOut(Schema):
    """A crease on a blank: `name` is the panel's that hangs on it, `now` its degrees as it is folded,
    `springs` whether what hangs on it is only tucked in, and `follows` the crease that moves it, if any."""

    name: str
    line: Outline
    now: float
    step: int
    springs: bool
    follows: str | None


class FlatPanelOut(Schema):
    """A panel of a blank and where its name is written."""

    name: str
    outline: Outline
    at: tuple[float, float]


class DimensionOut(Schema):
    """A size of the inside, and the line on the blank that shows it."""

    field: Literal["length", "width", "depth"]
    start: tuple[float, float]
    end: tuple[float, float]


class BlankOut(Schema):
    """A blank in mm from its lower left corner, seen from its printed side; `grain` is in degrees, and
    `paper` the outlines of what covers it."""

    name: str
    size: tuple[float, float]
    grain: float
    cuts: list[Outline]
    glue: list[Outline]
    perforations: list[Outline]
    embossed: list[Outline]
    paper: list[Outline]
    creases: list[CreaseOut]
    panels: list[FlatPanelOut]
    dimensions: list[DimensionOut]


class AllowanceOut(Schema):
    """One allowance that a style uses: mm as it is and as it would be by itself."""

    name: str
    words: str
    value: float
    usual: float
    by_hand: bool


class CartonFactsOut(Schema):
    size: tuple[float, float, float]
    inside: tuple[float, float, float]
    board_area: float
    crease_length: float
    board_g: float
    panels: int
    steps: int
    triangles: int
    cautions: list[str]


class CartonOut(Schema):
    """Everything a page needs to show a carton; `panels` are its blanks as they are printed whole, then its
    labels; `lies_on` what these may lie on."""

    kind: Literal["carton"] = "carton"
    facts: CartonFactsOut
    blanks: list[BlankOut]
    sheets: list[SheetOut]
    panels: list[core.Printed]
    lies_on: list[str]
    allowances: list[AllowanceOut]
    surfaces: list[SurfaceOut]
    parts: list[str]


class ReceivedFactsOut(Schema):
    size: tuple[float, float, float]
    fill_height: float | None
    triangles: int
    pieces: dict[str, int]
    open_parts: dict[str, int]
    contents_ml: float | None
    grams: float | None
    cautions: list[str]


class ReceivedOut(Schema):
    """Everything a page needs to show a received model: `panels` are what its parts are printed with, then
    its own; `outlines` are its parts from in front and from the right, mm."""

    kind: Literal["received"] = "received"
    facts: ReceivedFactsOut
    sheets: list[SheetOut]
    panels: list[core.Printed]
    surfaces: list[SurfaceOut]
    parts: list[str]
    front: list[PartOutline]
    side: list[PartOutline]
