"""Inks of a PDF: CMYK as its press prints it, and spot separations alone or left out.

A page's content is written anew: colours of the process are given the press's profile, and what paints in
an ink that is not wanted does not paint. What overprints leaves a plate alone, everything else knocks out
of it (ISO 32000-1, 8.6.6 and 11.7.4).
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
Fate = Literal["paint", "white", "leave"]
"""What becomes of something painted: as it is, white, or not at all."""
Instruction = Any
"""Operands and an operator's name, as they are written."""

_FILLS, _STROKES = ("f", "F", "f*"), ("S", "s")
_BOTH = {"B": ("f", "S"), "B*": ("f*", "S"), "b": ("f", "s"), "b*": ("f*", "s")}
_TEXTS = ("Tj", "TJ", "'", '"')
_FILL_SPACES = {"g": "DeviceGray", "rg": "DeviceRGB", "k": "DeviceCMYK"}
_STROKE_SPACES = {"G": "DeviceGray", "RG": "DeviceRGB", "K": "DeviceCMYK"}


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

    def fate(space: Any, overprints: bool) -> Fate:
        inks = _inks_of(space)
        return "leave" if inks and set(inks) <= set(left_out) else "paint"

    _rewritten(pdf, fate, profile)


def plate(pdf: Any, ink: str) -> None:
    """Let a file's only page print one spot ink, in black, and everything else as it knocks out of it."""
    for thing in pdf.objects:
        for space in _spaces_in(thing):
            inks = _inks_of(space)
            if ink in inks:
                space[2], space[3] = Name.DeviceGray, _amount(pdf, len(inks), inks.index(ink))

    def fate(space: Any, overprints: bool) -> Fate:
        if ink in _inks_of(space):
            return "paint"
        return "leave" if overprints else "white"

    _rewritten(pdf, fate, None)


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
class _State:
    """What paints: colour spaces by name or in full, and whether each overprints."""

    fill: Any = Name.DeviceGray
    stroke: Any = Name.DeviceGray
    fill_over: bool = False
    stroke_over: bool = False


def _rewritten(pdf: Any, fate: Callable[[Any, bool], Fate], profile: Any) -> None:
    """Write the content of a file's only page anew, and of the forms in it."""
    page = pdf.pages[0]
    resources = page.resources
    writer = _Writer(pdf, fate, profile)
    content = writer.content(pikepdf.parse_content_stream(page), resources, _State(), 0)
    page.obj.Contents = pdf.make_indirect(Stream(pdf, pikepdf.unparse_content_stream(content)))
    page.obj.Resources = resources


class _Writer:
    """Content written anew; forms once each."""

    def __init__(self, pdf: Any, fate: Callable[[Any, bool], Fate], profile: Any) -> None:
        self._pdf, self._fate, self._profile = pdf, fate, profile
        self._known: set[tuple[int, int]] = set()

    def content(self, instructions: Any, resources: Any, state: _State, depth: int) -> list[Instruction]:
        """Instructions as they are written."""
        written: list[Instruction] = []
        before: list[_State] = []
        if self._profile is not None:
            if "/ColorSpace" not in resources:
                resources["/ColorSpace"] = Dictionary()
            resources.ColorSpace[OWN_CMYK] = self._profile
        for instruction in instructions:
            if isinstance(instruction, pikepdf.ContentStreamInlineImage):
                if self._fate(Name.DeviceGray, state.fill_over) == "paint":
                    written.append(instruction)
                continue
            operands, name = list(instruction.operands), str(instruction.operator)
            if name == "q":
                before.append(state)
            elif name == "Q" and before:
                state = before.pop()
            state = self._next(state, operands, name, resources)
            painted = self._painted(operands, name, state, resources, depth)
            written += [(values, Operator(word)) for values, word in painted]
        return written

    def _next(self, state: _State, operands: list[Any], name: str, resources: Any) -> _State:
        """What paints after an instruction."""
        if name in _FILL_SPACES:
            return replace(state, fill=Name(f"/{_FILL_SPACES[name]}"))
        if name in _STROKE_SPACES:
            return replace(state, stroke=Name(f"/{_STROKE_SPACES[name]}"))
        if name in ("cs", "CS"):
            space = resources.get("/ColorSpace", Dictionary()).get(str(operands[0]), operands[0])
            return replace(state, **{"fill" if name == "cs" else "stroke": space})
        if name == "gs":
            given = resources.get("/ExtGState", Dictionary()).get(str(operands[0]), Dictionary())
            stroke = bool(given.get("/OP", state.stroke_over))
            fill = bool(given.get("/op", given.get("/OP", state.fill_over)))
            return replace(state, fill_over=fill, stroke_over=stroke)
        return state

    def _painted(
        self, operands: list[Any], name: str, state: _State, resources: Any, depth: int
    ) -> list[Instruction]:
        """What is written for an instruction."""
        if name in ("k", "K") and self._profile is not None:
            spaces, colours = ("cs", "scn") if name == "k" else ("CS", "SCN")
            return [([Name(OWN_CMYK)], spaces), (operands, colours)]
        if name == "Do":
            return self._drawn(operands, name, state, resources, depth)
        fill, stroke = self._fate(state.fill, state.fill_over), self._fate(state.stroke, state.stroke_over)
        written: list[Instruction] = [(operands, name)]
        if name in _FILLS:
            written = self._fated(fill, written, [([], "n")])
        elif name in _STROKES:
            written = self._fated(stroke, written, [([], "n")], white="G")
        elif name in _BOTH:
            written = self._filled_and_stroked(name, fill, stroke)
        elif name in _TEXTS:
            written = self._fated(fill, written, [([3], "Tr"), (operands, name), ([0], "Tr")])
        elif name == "sh":
            shading = resources.get("/Shading", Dictionary()).get(str(operands[0]), Dictionary())
            shown = self._fate(shading.get("/ColorSpace", Name.DeviceGray), state.fill_over)
            written = written if shown == "paint" else []
        return written

    @staticmethod
    def _fated(
        fate: Fate, painted: list[Instruction], unpainted: list[Instruction], *, white: str = "g"
    ) -> list[Instruction]:
        if fate == "leave":
            return unpainted
        return painted if fate == "paint" else [([1], white), *painted]

    def _filled_and_stroked(self, name: str, fill: Fate, stroke: Fate) -> list[Instruction]:
        only_fill, only_stroke = _BOTH[name]
        if fill == stroke == "paint":
            return [([], name)]
        if "leave" in (fill, stroke):
            if fill == stroke:
                return [([], "n")]
            if fill == "leave":
                return self._fated(stroke, [([], only_stroke)], [], white="G")
            return self._fated(fill, [([], only_fill)], [])
        white = [([1], "g")] if fill == "white" else []
        white += [([1], "G")] if stroke == "white" else []
        return [*white, ([], name)]

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
                thing.write(pikepdf.unparse_content_stream(written))
                thing.Resources = own
            return [(operands, name)]
        space = state.fill if thing.get("/ImageMask", False) else thing.get("/ColorSpace", Name.DeviceGray)
        if isinstance(space, Name):
            space = resources.get("/ColorSpace", Dictionary()).get(str(space), space)
        fate = self._fate(space, state.fill_over)
        if fate == "leave":
            return []
        if fate == "white":
            if thing.get("/ImageMask", False):
                return [([1], "g"), (operands, name)]
            _whiten(thing)
        return [(operands, name)]


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
