"""MaterialX, an open standard for materials: its surfaces as materials here, with the pictures they name.

What `standard_surface`, `open_pbr_surface` and `gltf_pbr` say is taken, by the figures that they have when
they say nothing (their node definitions). Graphs are followed to the picture at their end; what is computed
on the way is left out, and that is said. Runs in the reading process.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import PurePosixPath
from typing import Any

import MaterialX as mx  # noqa: N813 - the library's own convention
import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.grade.display import decode_srgb
from giftwrap.core.materials.others import frost_of, gloss_of, hex_of, look_of
from giftwrap.core.materials.surfaces import Part, Taken
from giftwrap.core.model.material import Clear, Cloudy, Material, Metal, Opaque
from giftwrap.core.model.worked import Film, Grain

MOST_MATERIALS = 200
MOST_STEPS = 40
"""Nodes that are followed on the way to a picture."""
WIDTH = 50.0
"""Mm across a picture, where the file says no size in the real world."""
THICK = 10.0
"""Mm of a clear thing that its colour is said for where the file says none."""
MM = {
    "nanometer": 1e-6,
    "micron": 1e-3,
    "millimeter": 1.0,
    "centimeter": 10.0,
    "meter": 1000.0,
    "kilometer": 1e6,
    "inch": 25.4,
    "foot": 304.8,
    "yard": 914.4,
    "mile": 1_609_344.0,
}
"""Of the units of length that the standard knows."""
PASSED = {"convert", "dot", "normalize", "swizzle", "remap", "clamp"}
"""Nodes that a picture comes through as it is, or nearly."""
LINEAR = {"", "lin_rec709", "linear", "none", "raw"}
"""Names of colour spaces that are taken as they are: linear Rec.709, or no colours."""
PICTURED = {"image", "tiledimage", "gltf_image", "gltf_colorimage", "gltf_normalmap"}
IN_GREEN = {"extract", "separate3", "separate4"}

_Value = float | tuple[float, ...]
SHADERS: dict[str, dict[str, tuple[str, _Value]]] = {
    "standard_surface": {
        "colour": ("base_color", (0.8, 0.8, 0.8)),
        "weight": ("base", 1.0),
        "metal": ("metalness", 0.0),
        "rough": ("specular_roughness", 0.2),
        "index": ("specular_IOR", 1.5),
        "passes": ("transmission", 0.0),
        "tint": ("transmission_color", (1.0, 1.0, 1.0)),
        "depth": ("transmission_depth", 0.0),
        "cloudy": ("subsurface", 0.0),
        "cloud": ("subsurface_color", (1.0, 1.0, 1.0)),
        "radius": ("subsurface_radius", (1.0, 1.0, 1.0)),
        "spread": ("subsurface_scale", 1.0),
        "sheen": ("sheen", 0.0),
        "coat": ("coat", 0.0),
        "coat_rough": ("coat_roughness", 0.1),
        "brushed": ("specular_anisotropy", 0.0),
        "film": ("thin_film_thickness", 0.0),
        "film_index": ("thin_film_IOR", 1.5),
        "normal": ("normal", 0.0),
    },
    "open_pbr_surface": {
        "colour": ("base_color", (0.8, 0.8, 0.8)),
        "weight": ("base_weight", 1.0),
        "metal": ("base_metalness", 0.0),
        "rough": ("specular_roughness", 0.3),
        "index": ("specular_ior", 1.5),
        "passes": ("transmission_weight", 0.0),
        "tint": ("transmission_color", (1.0, 1.0, 1.0)),
        "depth": ("transmission_depth", 0.0),
        "cloudy": ("subsurface_weight", 0.0),
        "cloud": ("subsurface_color", (0.8, 0.8, 0.8)),
        "radius": ("subsurface_radius_scale", (1.0, 0.5, 0.25)),
        "spread": ("subsurface_radius", 1.0),
        "sheen": ("fuzz_weight", 0.0),
        "coat": ("coat_weight", 0.0),
        "coat_rough": ("coat_roughness", 0.0),
        "brushed": ("specular_roughness_anisotropy", 0.0),
        "filmed": ("thin_film_weight", 0.0),
        "film": ("thin_film_thickness", 0.5),
        "film_index": ("thin_film_ior", 1.4),
        "normal": ("geometry_normal", 0.0),
    },
    "gltf_pbr": {
        "colour": ("base_color", (1.0, 1.0, 1.0)),
        "metal": ("metallic", 1.0),
        "rough": ("roughness", 1.0),
        "index": ("ior", 1.5),
        "passes": ("transmission", 0.0),
        "tint": ("attenuation_color", (1.0, 1.0, 1.0)),
        "depth": ("attenuation_distance", 0.0),
        "sheen": ("sheen_color", (0.0, 0.0, 0.0)),
        "coat": ("clearcoat", 0.0),
        "coat_rough": ("clearcoat_roughness", 0.0),
        "brushed": ("anisotropy_strength", 0.0),
        "filmed": ("iridescence", 0.0),
        "film": ("iridescence_thickness", 100.0),
        "film_index": ("iridescence_ior", 1.3),
        "normal": ("normal", 0.0),
    },
}
"""What each kind of surface calls what is taken of it, and what that is where it says nothing."""
NM = {"standard_surface": 1.0, "open_pbr_surface": 1000.0, "gltf_pbr": 1.0}
"""Of a film's thickness: the second says it in µm."""


def materialx_surfaces(data: bytes, filename: str) -> tuple[list[dict[str, Any]], bytes]:
    """Every material of a document, as it is done in the reading process; no body.

    Each has `name`, `material`, `pictures` (by part, `file` and how it is `taken`), their `width` in mm, how
    `steep` a relief is, and what was `left_out`.

    Raises PackError for what is no such document, or has no such material.
    """
    document = mx.createDocument()
    options = mx.XmlReadOptions()
    options.readXIncludeFunction = None  # nothing but what was sent
    try:
        mx.readFromXmlString(document, data.decode("utf-8-sig"), mx.FileSearchPath(), options)
    except (UnicodeDecodeError, RuntimeError, mx.Exception, mx.ExceptionParseError) as error:
        said = str(error).strip().split("\n")[0][:160]
        raise PackError(f"{filename} is no MaterialX that can be read ({said}): export it again.") from None
    nodes = document.getMaterialNodes()
    if len(nodes) > MOST_MATERIALS:
        raise PackError(
            f"{filename} has {len(nodes)} materials: at most {MOST_MATERIALS} can be brought at once."
        )
    found = [one for node in nodes if (one := _material(node))]
    if not found:
        raise PackError(
            f"{filename} has no material with a surface that is known here: {', '.join(SHADERS)} are."
        )
    return found, b""


def _material(node: Any) -> dict[str, Any] | None:
    shaders = [one for one in mx.getShaderNodes(node) if one.getCategory() in SHADERS]
    if not shaders:
        return None
    surface = _Surface(shaders[0])
    pictures = surface.pictures()
    made = surface.material(white="colour" in pictures)
    said = node.getAttribute("uiname") or node.getName()
    return {
        "name": said.replace("_", " ").strip()[:120] or "material",
        "material": made.model_dump(mode="json"),
        "pictures": {part: {"file": one.file, "taken": one.taken} for part, one in pictures.items()},
        "width": next((one.width for one in pictures.values()), WIDTH),
        "steep": pictures["relief"].steep if "relief" in pictures else 1.0,
        "brushed": surface.number("brushed"),
        "left_out": sorted(surface.left_out)[:8],
    }


@dataclass
class _Picture:
    file: str
    taken: Taken
    width: float = WIDTH
    steep: float = 1.0


@dataclass
class _Surface:
    """A shader's node, and what of it is not taken."""

    node: Any
    left_out: set[str] = field(default_factory=set)

    @property
    def kind(self) -> str:
        return str(self.node.getCategory())

    def value(self, what: str) -> _Value:
        """What it says by a value; what it is without one where it says nothing, or shows a picture."""
        name, usual = SHADERS[self.kind].get(what, ("", 0.0))
        given = self.node.getInput(name) if name else None
        ahead = given.getConnectedNode() if given is not None else None
        if ahead is not None and ahead.getCategory() == "constant":
            given = ahead.getInput("value")
        values = _numbers(given)
        if not values:
            return usual
        if len(values) == 1:
            return values[0]
        space = given.getActiveColorSpace() if given is not None else ""
        if space == "srgb_texture":
            return tuple(float(v) for v in decode_srgb(np.clip(values[:3], 0, 1)))
        if space not in LINEAR:
            self.left_out.add(f"colours of {space}")
        return values[:3]

    def number(self, what: str) -> float:
        """A value as a number from 0 to 1."""
        return float(np.clip(np.mean(self.value(what)), 0, 1))

    def colour(self, what: str) -> tuple[float, ...]:
        """A value as linear light."""
        found = self.value(what)
        values = found if isinstance(found, tuple) else (found,) * 3
        return tuple(min(max(v, 0.0), 1.0) for v in values)

    def mm(self, what: str) -> float:
        """A value as a length."""
        name, _ = SHADERS[self.kind][what]
        given = self.node.getInput(name)
        return float(np.mean(self.value(what))) * _unit(given if given is not None else self.node)

    def material(self, *, white: bool) -> Material:
        """What it is made of, without its pictures."""
        index = float(np.clip(np.mean(self.value("index")), 1.0, 2.6))
        rough = self.number("rough")
        film = self._film()
        if self.number("passes") > 0.5:
            depth = self.mm("depth")
            tint = hex_of(self.colour("tint"))
            deep = float(np.clip(depth, 0.1, 1000)) if depth > 0 else THICK
            return Clear(refractive_index=index, colour=tint, depth=deep, frost=frost_of(rough), film=film)
        if self.number("cloudy") > 0.5:
            wander = float(np.mean(self.value("radius"))) * self.mm("spread")
            return Cloudy(
                colour="#ffffff" if white else hex_of(self.colour("cloud")),
                wander=float(np.clip(wander, 0.02, 50)),
                gloss=gloss_of(rough),
                refractive_index=index,
                film=film,
            )
        share = self.number("weight") if "weight" in SHADERS[self.kind] else 1.0
        colour = (1.0, 1.0, 1.0) if white else tuple(share * c for c in self.colour("colour"))
        made = look_of(colour, self.number("metal"), rough)
        if not isinstance(made, Opaque | Metal):
            raise TypeError("What light does not pass is metal or opaque.")
        if isinstance(made, Metal):
            coated = gloss_of(self.number("coat_rough")) if self.number("coat") > 0.5 else 0.0
            return made.model_copy(update={"lacquer": coated, "film": film, "grain": self._brushing()})
        gloss = (
            max(made.gloss, gloss_of(self.number("coat_rough"))) if self.number("coat") > 0.5 else made.gloss
        )
        return made.model_copy(update={"gloss": gloss, "sheen": self.number("sheen"), "film": film})

    def _film(self) -> Film | None:
        """A thin film over it."""
        if "filmed" in SHADERS[self.kind] and self.number("filmed") <= 0.5:
            return None
        thickness = float(np.mean(self.value("film"))) * NM[self.kind]
        if thickness < 10:
            return None
        index = float(np.clip(np.mean(self.value("film_index")), 1.2, 3.0))
        return Film(thickness=min(thickness, 2000.0), refractive_index=index)

    def _brushing(self) -> Grain | None:
        share = self.number("brushed")
        return Grain(pattern="brushed", brushed=share) if share > 0.02 else None

    def pictures(self) -> dict[Part, _Picture]:
        """The pictures at the ends of what it is connected to."""
        cloudy = "cloud" if "cloudy" in SHADERS[self.kind] and self.number("cloudy") > 0.5 else "colour"
        wanted: list[tuple[str, Part, Taken]] = [
            (cloudy, "colour", "colours"),
            ("rough", "gloss", "roughness"),
            ("normal", "relief", "normals up"),
        ]
        found: dict[Part, _Picture] = {}
        for what, part, taken in wanted:
            given = self.node.getInput(SHADERS[self.kind][what][0])
            if given is not None and (one := self._picture(given, taken)):
                found[part] = one
        return found

    def _picture(self, given: Any, taken: Taken) -> _Picture | None:
        passed: set[str] = set()
        steep, green = 1.0, False
        for node, through in _upstream(given):
            kind = node.getCategory()
            if kind in PICTURED:
                file = node.getInput("file")
                name = file.getResolvedValueString() if file is not None else ""
                if not name:
                    continue
                self.left_out |= passed
                taken = "roughness in green" if green and taken == "roughness" else taken
                return _Picture(str(PurePosixPath(name.replace("\\", "/"))), taken, _width(node), steep)
            if kind == "normalmap":
                scale = node.getInput("scale")
                steep = float(np.mean(_numbers(scale) or 1.0))
            elif kind in IN_GREEN:
                index = node.getInput("index")
                green = through == "outg" or _numbers(index) == (1.0,)
            elif kind not in PASSED:
                passed.add(kind)
        self.left_out |= passed - {"constant"}
        return None


def _upstream(given: Any) -> Iterator[tuple[Any, str]]:
    """Nodes that an input is fed by, nearest first, and the output by which; what says where is left out."""
    waiting, seen = [given], 0
    while waiting and seen < MOST_STEPS:
        one = waiting.pop(0)
        node = one.getConnectedNode()
        if node is None:
            continue
        seen += 1
        yield node, one.getOutputString()
        waiting += [i for i in node.getInputs() if i.getType() != "vector2" or i.getName() == "in"]


def _numbers(given: Any) -> tuple[float, ...]:
    """The numbers that an input says; none where it says none, or such as are none."""
    found = given.getValue() if given is not None else None
    if isinstance(found, bool | int | float):
        values: tuple[float, ...] = (float(found),)
    elif isinstance(found, mx.Color3 | mx.Vector3 | mx.Color4 | mx.Vector4 | mx.Vector2):
        values = tuple(float(v) for v in found)
    else:
        return ()
    values = tuple(float(f"{v:.6g}") for v in values)  # the library's numbers are of 32 bits
    return values if np.isfinite(values).all() else ()


def _width(node: Any) -> float:
    """Mm across a picture as it is laid."""
    size, tiled = (_numbers(node.getInput(name)) for name in ("realworldimagesize", "uvtiling"))
    across = size[0] * _unit(node.getInput("realworldimagesize")) if size else WIDTH
    return float(np.clip(across / tiled[0] if tiled and tiled[0] > 0 else across, 0.02, 5000))


def _unit(element: Any) -> float:
    """Mm of the unit that lengths are in there: its own, or the document's."""
    own = element.getAttribute("unit") or element.getDocument().getAttribute("distanceunit")
    return MM.get(own, MM["meter"])
