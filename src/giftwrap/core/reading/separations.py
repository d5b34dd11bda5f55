"""Inks of a PDF: CMYK as its press prints it, and spot separations alone or left out.

A page's content is written anew: colours of the process are given the press's profile, and what paints in
an ink that is not wanted does not paint. What overprints leaves a plate alone, everything else knocks out
of it (ISO 32000-1, 8.6.6 and 11.7.4). Seen together, what overprints multiplies with what is under it, as
transparent inks do.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

import pikepdf
from pikepdf import Array, Dictionary, Name, Operator, Stream

from giftwrap.core.reading.press_profile import press_profile

OWN_CMYK = "/OwnCMYK"
DEPTH = 24
"""Forms within forms that are followed."""
NO_INKS = ("All", "None", "Cyan", "Magenta", "Yellow", "Black")
Fate = Literal["paint", "over", "white", "leave"]
"""What becomes of something painted: as it is, over what is there, white, or not at all."""
OVER, PLAIN = "/OwnOver", "/OwnPlain"
"""Graphics states that multiply, and that do not any more."""
Instruction = Any
"""Operands and an operator's name, as they are written."""

_FILLS, _STROKES = ("f", "F", "f*"), ("S", "s")
_BOTH = {"B": ("f", "S"), "B*": ("f*", "S"), "b": ("f", "s"), "b*": ("f*", "s")}
_TEXTS = ("Tj", "TJ", "'", '"')
_PAINTS = (*_FILLS, *_STROKES, *_BOTH, *_TEXTS)
_PATH = ("m", "l", "c", "v", "y", "h", "re")
_DEVICES = {
    "g": "DeviceGray",
    "rg": "DeviceRGB",
    "k": "DeviceCMYK",
    "G": "DeviceGray",
    "RG": "DeviceRGB",
    "K": "DeviceCMYK",
}


def spot_inks(pdf: Any) -> list[str]:
    """Names of the spot separations that a file has, in order."""
    found: dict[str, None] = {}
    for thing in pdf.objects:
        for space in _spaces_in(thing):
            found.update(dict.fromkeys(_inks_of(space)))
    return [name for name in found if name not in NO_INKS]


def managed(pdf: Any, left_out: Sequence[str] = ()) -> None:
    """Let a file's only page print CMYK by its output intent, or the press, and without some spot inks."""
    profile = _array(pdf)
    _replace_cmyk(pdf, profile)

    def fate(paint: Paint) -> Fate:
        inks = _inks_of(paint.space)
        if inks and set(inks) <= set(left_out):
            return "leave"
        return "over" if paint.leaves_others else "paint"

    _rewritten(pdf, fate, profile)


def plate(pdf: Any, ink: str) -> None:
    """Let a file's only page print one spot ink, in black, and everything else as it knocks out of it."""
    for thing in pdf.objects:
        for space in _spaces_in(thing):
            inks = _inks_of(space)
            if ink in inks:
                space[2], space[3] = Name.DeviceGray, _amount(pdf, len(inks), inks.index(ink))

    def fate(paint: Paint) -> Fate:
        if ink in _inks_of(paint.space):
            return "paint"
        return "leave" if paint.overprints else "white"

    _rewritten(pdf, fate, None)


def vanishes(pdf: Any) -> bool:
    """Whether something on a file's first page is white and set to overprint: no press prints that."""
    found = False

    def fate(paint: Paint) -> Fate:
        nonlocal found
        found = found or (paint.none and paint.leaves_others)
        return "paint"

    writer = _Writer(pdf, fate, None, keep=True)
    page = pdf.pages[0]
    writer.content(pikepdf.parse_content_stream(page), page.resources, _State(), 0)
    return found


def _amount(pdf: Any, count: int, index: int) -> Any:
    """A function from the amounts of some inks to how light one of them leaves the paper."""
    words = "pop " * (count - 1 - index) + "1 exch sub " + "exch pop " * index
    stream = Stream(pdf, f"{{ {words}}}".encode())
    stream.FunctionType, stream.Domain, stream.Range = 4, Array([0, 1] * count), Array([0, 1])
    return pdf.make_indirect(stream)


def _array(pdf: Any) -> Any:
    """What CMYK means: the file's output intent, or the press."""
    for intent in pdf.Root.get("/OutputIntents", []):
        profile = intent.get("/DestOutputProfile")
        if profile is not None and int(profile.get("/N", 0)) == 4:
            return Array([Name.ICCBased, profile])
    stream = Stream(pdf, press_profile())
    stream.N, stream.Alternate = 4, Name.DeviceCMYK
    return Array([Name.ICCBased, pdf.make_indirect(stream)])


def _spaces_in(thing: Any) -> Iterator[Any]:
    """Colour spaces of inks that an object is, or directly holds."""
    if isinstance(thing, Array):
        if _is_inks(thing):
            yield thing
        for value in thing:
            if isinstance(value, (Array, Dictionary)) and not value.is_indirect:
                yield from _spaces_in(value)
    elif isinstance(thing, (Dictionary, Stream)):
        for _, value in thing.items():
            if isinstance(value, (Array, Dictionary)) and not value.is_indirect:
                yield from _spaces_in(value)


def _is_inks(space: Any) -> bool:
    return isinstance(space, Array) and len(space) > 3 and space[0] in (Name.Separation, Name.DeviceN)


def _inks_of(space: Any) -> tuple[str, ...]:
    """The inks that a colour space prints with, where it names them."""
    if isinstance(space, Array) and len(space) > 1 and space[0] == Name.Indexed:
        return _inks_of(space[1])
    if not _is_inks(space):
        return ()
    names = [space[1]] if space[0] == Name.Separation else list(space[1])
    return tuple(str(name).removeprefix("/") for name in names)


def _replace_cmyk(pdf: Any, profile: Any) -> None:
    """Give CMYK its profile wherever an object names it as a colour space."""
    for thing in pdf.objects:
        _replace_within(thing, profile)


def _replace_within(thing: Any, profile: Any) -> None:
    if isinstance(thing, Array):
        places: list[Any] = list(range(len(thing)))
    elif isinstance(thing, (Dictionary, Stream)):
        places = [key for key in thing if key not in ("/Alternate", "/Filter")]
    else:
        return
    for place in places:
        value = thing[place]
        if isinstance(value, Name) and value == Name.DeviceCMYK:
            thing[place] = profile
        elif isinstance(value, (Array, Dictionary)) and not value.is_indirect:
            _replace_within(value, profile)


@dataclass(frozen=True)
class Paint:
    """What paints.

    space : its colour space, by name or in full
    overprints : whether it leaves plates alone that it has no ink for
    sparing : whether those of process inks count that it has nothing of; else it knocks out of all of them
    none : whether it has nothing of any ink
    """

    space: Any = Name.DeviceGray
    overprints: bool = False
    sparing: bool = False
    none: bool = False

    @property
    def leaves_others(self) -> bool:
        """Whether what lies under it shows."""
        if not self.overprints:
            return False
        return bool(_inks_of(self.space)) or (self.sparing and self.space == Name.DeviceCMYK)

    @property
    def of_picture(self) -> Paint:
        """As it paints pictures and shadings, which have something of every ink."""
        return replace(self, sparing=False, none=False)


@dataclass(frozen=True)
class _State:
    """What fills and what strokes; whether something else than painting over blends."""

    fill: Paint = Paint()
    stroke: Paint = Paint()
    blends: bool = False


def _rewritten(pdf: Any, fate: Callable[[Paint], Fate], profile: Any) -> None:
    """Write the content of a file's only page anew, and of the forms in it."""
    page = pdf.pages[0]
    resources = page.resources
    writer = _Writer(pdf, fate, profile)
    content = writer.content(pikepdf.parse_content_stream(page), resources, _State(), 0)
    page.obj.Contents = pdf.make_indirect(Stream(pdf, pikepdf.unparse_content_stream(content)))
    page.obj.Resources = resources


class _Writer:
    """Content written anew; forms once each.

    keep : whether the file stays as it is
    """

    def __init__(self, pdf: Any, fate: Callable[[Paint], Fate], profile: Any, *, keep: bool = False) -> None:
        self._pdf, self._fate, self._profile, self._keep = pdf, fate, profile, keep
        self._known: set[tuple[int, int]] = set()

    def content(self, instructions: Any, resources: Any, state: _State, depth: int) -> list[Instruction]:
        """Instructions as they are written."""
        written: list[Instruction] = []
        before: list[_State] = []
        path: list[Instruction] = []
        if self._profile is not None:
            for key in ("/ColorSpace", "/ExtGState"):
                if key not in resources:
                    resources[key] = Dictionary()
            resources.ColorSpace[OWN_CMYK] = self._profile
            resources.ExtGState[OVER] = Dictionary(BM=Name.Multiply)
            resources.ExtGState[PLAIN] = Dictionary(BM=Name.Normal)
        for instruction in instructions:
            if isinstance(instruction, pikepdf.ContentStreamInlineImage):
                written += self._inline(instruction, state)
                continue
            operands, name = list(instruction.operands), str(instruction.operator)
            if name == "q":
                before.append(state)
            elif name == "Q" and before:
                state = before.pop()
            state = self._next(state, operands, name, resources)
            if name in _BOTH and self._fate(state.fill) != self._fate(state.stroke):
                fill, stroke = _BOTH[name]
                apart = [([], fill), *path, ([], stroke)]
            else:
                apart = [(operands, name)]
            for values, word in apart:
                painted = self._painted(values, word, state, resources, depth)
                written += [(given, Operator(told)) for given, told in painted]
            if name in _PATH:
                path.append((operands, name))
            else:
                path = []
        return written

    def _inline(self, picture: Any, state: _State) -> list[Instruction]:
        """What is written for a picture in the content: unless it is a mask, it is in no ink by name."""
        mask = picture.iimage.image_mask
        paint = state.fill if mask else replace(state.fill.of_picture, space=Name.DeviceGray)
        return [] if self._fate(paint) in ("white", "leave") else [picture]

    def _next(self, state: _State, operands: list[Any], name: str, resources: Any) -> _State:
        """What paints after an instruction."""
        paint = state.fill if name.islower() else state.stroke
        if name in _DEVICES:
            space = Name(f"/{_DEVICES[name]}")
            paint = replace(paint, space=space, none=name in ("k", "K") and not any(map(float, operands)))
        elif name in ("cs", "CS"):
            space = resources.get("/ColorSpace", Dictionary()).get(str(operands[0]), operands[0])
            space = Name.DeviceCMYK if self._is_press(space) else space
            paint = replace(paint, space=space, none=False)
        elif name in ("sc", "SC", "scn", "SCN"):
            paint = replace(paint, none=_none_of(paint.space, operands))
        elif name != "gs":
            return state
        else:
            return _with(state, resources.get("/ExtGState", Dictionary()).get(str(operands[0]), Dictionary()))
        return replace(state, fill=paint) if name.islower() else replace(state, stroke=paint)

    def _is_press(self, space: Any) -> bool:
        """Whether a space is what CMYK was given."""
        same = self._profile is not None and isinstance(space, Array) and space[0] == Name.ICCBased
        return bool(same and space[1].objgen == self._profile[1].objgen)

    def _painted(
        self, operands: list[Any], name: str, state: _State, resources: Any, depth: int
    ) -> list[Instruction]:
        """What is written for an instruction."""
        if name in ("k", "K") and self._profile is not None:
            spaces, colours = ("cs", "scn") if name == "k" else ("CS", "SCN")
            return [([Name(OWN_CMYK)], spaces), (operands, colours)]
        if name == "Do":
            return self._drawn(operands, name, state, resources, depth)
        paint = state.stroke if name in _STROKES else state.fill
        if name == "sh":
            shading = resources.get("/Shading", Dictionary()).get(str(operands[0]), Dictionary())
            paint = replace(paint.of_picture, space=shading.get("/ColorSpace", Name.DeviceGray))
        elif name not in _PAINTS:
            return [(operands, name)]
        fate = self._fate(paint)
        if name == "sh":
            unpainted = []
            fate = "leave" if fate == "white" else fate
        else:
            unpainted = [([3], "Tr"), (operands, name), ([0], "Tr")] if name in _TEXTS else [([], "n")]
        if fate == "leave":
            return unpainted
        white: list[Instruction] = []
        if fate == "white":
            white += [([1], "g")] if name not in _STROKES else []
            white += [([1], "G")] if name in (*_STROKES, *_BOTH) else []
        return [*white, *self._over(fate, [(operands, name)], state)]

    @staticmethod
    def _over(fate: Fate, painted: list[Instruction], state: _State) -> list[Instruction]:
        """What paints, over what is there where it is to."""
        if fate != "over" or state.blends:
            return painted
        return [([Name(OVER)], "gs"), *painted, ([Name(PLAIN)], "gs")]

    def _drawn(
        self, operands: list[Any], name: str, state: _State, resources: Any, depth: int
    ) -> list[Instruction]:
        thing = resources.get("/XObject", Dictionary()).get(str(operands[0]))
        if not isinstance(thing, Stream):
            return []
        if thing.get("/Subtype") == Name.Form:
            if thing.objgen not in self._known and depth < DEPTH:
                self._known.add(thing.objgen)
                own = thing.get("/Resources", resources)
                written = self.content(pikepdf.parse_content_stream(thing), own, state, depth + 1)
                if not self._keep:
                    thing.write(pikepdf.unparse_content_stream(written))
                    thing.Resources = own
            return [(operands, name)]
        mask = bool(thing.get("/ImageMask", False))
        space = thing.get("/ColorSpace", Name.DeviceGray)
        if isinstance(space, Name):
            space = resources.get("/ColorSpace", Dictionary()).get(str(space), space)
        fate = self._fate(state.fill if mask else replace(state.fill.of_picture, space=space))
        if fate == "leave":
            return []
        if fate == "white" and not mask:
            _whiten(thing)
        white = [([1], "g")] if fate == "white" and mask else []
        return [*white, *self._over(fate, [(operands, name)], state)]


def _none_of(space: Any, amounts: Sequence[Any]) -> bool:
    """Whether so much of a space's inks is nothing."""
    if not (_inks_of(space) or space == Name.DeviceCMYK):
        return False
    return not any(float(v) for v in amounts if not isinstance(v, Name))


def _with(state: _State, given: Any) -> _State:
    """A state with what a graphics state says of overprint and blending."""
    stroke = bool(given.get("/OP", state.stroke.overprints))
    fill = bool(given.get("/op", given.get("/OP", state.fill.overprints)))
    sparing = int(given.get("/OPM", state.fill.sparing)) == 1
    state = replace(
        state,
        fill=replace(state.fill, overprints=fill, sparing=sparing),
        stroke=replace(state.stroke, overprints=stroke, sparing=sparing),
    )
    if "/BM" in given:
        mode = given.BM[0] if isinstance(given.BM, Array) else given.BM
        state = replace(state, blends=mode not in (Name.Normal, Name.Compatible))
    return state


def _whiten(image: Any) -> None:
    """Make a picture white, where it is not masked."""
    if "/Mask" in image and isinstance(image.Mask, Array):
        del image["/Mask"]
    for key in ("/DecodeParms", "/Decode"):
        if key in image:
            del image[key]
    image.write(b"\xff")
    image.Width = image.Height = 1
    image.ColorSpace, image.BitsPerComponent = Name.DeviceGray, 8
