"""The press: from a panel's stock, artwork and run to what its face is made of everywhere."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageChops, ImageColor
from scipy.ndimage import uniform_filter1d

from giftwrap.core.materials.optics import Texels, metal_tint
from giftwrap.core.materials.starting import drawn_colour
from giftwrap.core.model import Clear, Metal, Opaque, Placement, Printed
from giftwrap.core.model.material import plain
from giftwrap.core.model.run import Cut, Embossed, Foil, Ink, Layer, Varnish, White
from giftwrap.core.wrap.perforation import slits
from giftwrap.core.wrap.stamps import Box, Stamp
from giftwrap.core.wrap.stocks import face_of, shards_at, spread

WHITE_INK = (250, 249, 246)
INK_GLOSS = 0.45
"""Of inks on film and metal, where no stock lends them its own; and of white."""
STRUCK_MM, STRUCK_FLANK = -0.02, 0.12
"""How deep hot foil is pressed into its stock, and how wide its edge is (common practice)."""
IRONED = 0.85
"""Share of its stock's unevenness that hot foil takes away (common practice)."""
RAISED_FLANK = 0.12
"""How wide the edge of raised varnish is, mm (common practice)."""
DEEPEST = 65535
GOLDEN = math.pi * (3 - math.sqrt(5))
"""Layers are off in directions that lie apart by the golden angle: no two alike."""


@dataclass(frozen=True, eq=False)
class PrintedSheet:
    """A printed sheet: its face, and its back where that is seen through it.

    metal : what its metal is; None where it has none
    low : mm from the stock's face to the lowest place of its relief
    """

    face: Texels
    behind: Texels | None = None
    metal: str | None = None
    low: float = 0.0

    @property
    def bytes(self) -> int:
        """What it takes in memory."""
        return self.face.bytes + (self.behind.bytes if self.behind else 0)

    @property
    def picture(self) -> Image.Image:
        """As it is drawn: RGB, or RGBA where light passes it."""
        assert self.face.colour is not None
        colour = Image.fromarray(self.face.colour)
        if self.metal and self.face.metal is not None:
            shine = drawn_colour(Metal.model_validate({"metal": self.metal}))
            tinted = ImageChops.multiply(colour, Image.new("RGB", colour.size, shine))
            colour.paste(tinted, (0, 0), Image.fromarray(self.face.metal))
        if self.face.presence is None:
            return colour
        if not self.face.through:
            return Image.merge("RGBA", [*colour.split(), Image.fromarray(self.face.presence)])
        ink = ImageChops.invert(colour.convert("L"))
        shown = ImageChops.lighter(Image.fromarray(self.face.presence), ink)
        return Image.merge("RGBA", [*colour.split(), shown])

    @property
    def looks(self) -> Image.Image:
        """Its roughness in green and its metal in blue, as drawings of materials take them."""
        size = self.face.shape[::-1]
        gloss = Image.new("L", size) if self.face.gloss is None else Image.fromarray(self.face.gloss)
        metal = Image.new("L", size) if self.face.metal is None else Image.fromarray(self.face.metal)
        return Image.merge("RGB", [Image.new("L", size), ImageChops.invert(gloss), metal])


@dataclass(frozen=True, eq=False)
class State:
    """A sheet between two layers."""

    colour: Image.Image
    behind: Image.Image | None
    height: NDArray[np.float32] | None
    channels: Mapping[str, Image.Image]

    @property
    def bytes(self) -> int:
        """What it takes in memory."""
        pixels = self.colour.width * self.colour.height
        rest = 3 * (self.behind is not None) + 4 * (self.height is not None) + len(self.channels)
        return pixels * (3 + rest)


@dataclass(frozen=True, eq=False)
class Area:
    """Where a layer is: `mask` L at `box`."""

    mask: Image.Image
    box: Box

    def times(self, share: float) -> Image.Image:
        """Its mask by a share."""
        return self.mask if share == 1 else self.mask.point([round(share * code) for code in range(256)])


@dataclass(eq=False)
class Press:
    """A sheet in the press, `size` px across and down, `scale` px a mm.

    stamps : what shows of each placement
    """

    panel: Printed
    size: tuple[int, int]
    scale: float
    stamps: Sequence[Stamp | None]
    colour: Image.Image = field(init=False)
    behind: Image.Image | None = field(init=False)
    height: NDArray[np.float32] | None = field(init=False, default=None)
    _off: tuple[int, int] = field(init=False, default=(0, 0))

    def __post_init__(self) -> None:
        stock = self.panel.made_of
        self.see_through = isinstance(stock, Clear)
        self.metal = metal_of(self.panel)
        ground: str | tuple[int, int, int] = "white"
        if isinstance(stock, Opaque):
            ground = ImageColor.getrgb(stock.colour)[:3]
        if isinstance(stock, Metal) and self.metal:
            ground = metal_tint(stock, self.metal)
        self.colour = Image.new("RGB", self.size, ground)
        self.behind = Image.new("RGB", self.size, "white") if self.see_through else None
        shine = 1.0 if self.see_through else stock.gloss if isinstance(stock, Opaque | Metal) else 1.0
        self._starts = {
            "gloss": round(255 * shine),
            "metal": 255 * isinstance(stock, Metal),
            "presence": 255 * (not self.see_through),
            "cut": 0,
        }
        self._ground = ground
        self._channels: dict[str, Image.Image] = {}
        if isinstance(stock, Metal):
            self.channel("metal")
        if self.see_through:
            self.channel("presence")
        self._feel()

    def _feel(self) -> None:
        """The stock's own face, before anything is printed."""
        face = face_of(self.panel.tooth, self.scale) if not self.see_through else None
        if face is None:
            return
        self.height = spread(face.height, self.size).copy()
        if face.shade is not None:
            shade = 1 + spread(face.shade, self.size)
            pixels = np.asarray(self.colour, np.float32) * shade[..., None]
            self.colour = Image.fromarray(np.clip(pixels, 0, 255).astype(np.uint8))

    def channel(self, name: str) -> Image.Image:
        """One of gloss, metal and presence, and of what is cut out, L."""
        if name not in self._channels:
            self._channels[name] = Image.new("L", self.size, self._starts[name])
        return self._channels[name]

    def state(self) -> State:
        """A copy of the sheet as it is between two layers."""
        behind = self.behind.copy() if self.behind else None
        height = None if self.height is None else self.height.copy()
        channels = {name: image.copy() for name, image in self._channels.items()}
        return State(self.colour.copy(), behind, height, channels)

    def take_up(self, state: State) -> None:
        """Go on from where a sheet was."""
        self.colour = state.colour.copy()
        self.behind = state.behind.copy() if state.behind else None
        self.height = None if state.height is None else state.height.copy()
        self._channels = {name: image.copy() for name, image in state.channels.items()}

    def run(self, first: int = 0, last: int | None = None) -> None:
        """Print layers, from one up to another."""
        layers = list(enumerate(self.panel.layers))
        for number, layer in layers[first:last]:
            self._off = self._out_of_register(number)
            if isinstance(layer, Ink) and layer.material is None and layer.covers == "placed":
                for placement, whole in self._placed():
                    stamp = self._shifted(whole)
                    if placement.printed and stamp:
                        area = Area(stamp.area("shape"), stamp.box)
                        self._ink(stamp.image.convert("RGB"), area, layer.hiding)
                continue
            for area in self._areas(layer):
                self._lay(layer, area)

    def _lay(self, layer: Layer, area: Area) -> None:
        size = area.mask.size
        if isinstance(layer, White):
            thin = Area(area.times(layer.hiding), area.box)  # what it does not hide it leaves as it is
            self._ink(Image.new("RGB", size, WHITE_INK), thin, 1.0)
        if isinstance(layer, Ink):
            ink = plain(layer.material) if layer.material else Opaque(colour="#000000", gloss=INK_GLOSS)
            self._ink(Image.new("RGB", size, ink.colour), area, layer.hiding)
            self._over("gloss", round(255 * ink.gloss), area)
        if isinstance(layer, Foil) and self.metal:
            foil = plain(layer.material)
            face = Image.new("RGB", size, metal_tint(foil, self.metal))
            self._cover(self._broken(face, area) if layer.holographic else face, area, 1.0)
            self._over("metal", 255, area)
            self._over("gloss", round(255 * foil.gloss), area)
            if layer.hot and not self.see_through:
                self._iron(area)
                self._press(area, STRUCK_MM, STRUCK_FLANK)
        if isinstance(layer, Varnish):
            self._over("gloss", round(255 * layer.gloss), area)
            if layer.height:
                self._press(area, layer.height, RAISED_FLANK)
        if isinstance(layer, Embossed):
            self._press(area, layer.height, layer.flank)
        if isinstance(layer, Cut):
            mask = area.mask
            if layer.slit is not None:
                mask = slits(mask, layer.slit * self.scale, layer.tie * self.scale)
            self._over("cut", 255, Area(mask, area.box))

    def _broken(self, face: Image.Image, area: Area) -> Image.Image:
        """Foil in shards: their tints; their lean goes into the sheet's height."""
        shards = shards_at(self.scale)
        left, top, right, foot = area.box
        part = slice(top, foot), slice(left, right)
        if self.height is None:
            self.height = np.zeros(self.size[::-1], np.float32)
        there = np.asarray(area.mask, np.float32) / 255
        self.height[part] += spread(shards.height, self.size)[part] * there
        tinted = np.asarray(face, np.float32) * spread(shards.tint, self.size)[part]
        return Image.fromarray(np.clip(tinted, 0, 255).astype(np.uint8))

    def _out_of_register(self, number: int) -> tuple[int, int]:
        """Px by which a layer is off, each another way; the first is where it should be."""
        if not number or not self.panel.registration:
            return 0, 0
        way, far = GOLDEN * number, self.panel.registration * self.scale
        return round(far * math.cos(way)), round(far * math.sin(way))

    def _shifted(self, stamp: Stamp) -> Stamp | None:
        """A stamp as far off as the layer is that is printed; None where it leaves the sheet."""
        across, down = self._off
        if not (across or down):
            return stamp
        left, top, right, foot = stamp.box
        box = (left + across, top + down, right + across, foot + down)
        kept = (max(box[0], 0), max(box[1], 0), min(box[2], self.size[0]), min(box[3], self.size[1]))
        if kept[0] >= kept[2] or kept[1] >= kept[3]:
            return None
        part = (kept[0] - box[0], kept[1] - box[1], kept[2] - box[0], kept[3] - box[1])
        plates = {name: plate.crop(part) for name, plate in stamp.plates.items()}
        return Stamp(stamp.image.crop(part), kept, plates)

    def _placed(self) -> Iterator[tuple[Placement, Stamp]]:
        for placement, stamp in zip(self.panel.placements, self.stamps, strict=True):
            if stamp is not None:
                yield placement, stamp

    def _areas(self, layer: Layer) -> Iterator[Area]:
        if layer.covers == "whole":
            yield Area(Image.new("L", self.size, 255), (0, 0, *self.size))
        found: list[Area] = []
        for placement, whole in self._placed():
            stamp = self._shifted(whole)
            if stamp is None:
                continue
            if layer.covers == "ink" and placement.printed:
                found.append(Area(stamp.area("shape"), stamp.box))
            channel = placement.areas.get(layer.name)
            if channel is not None:
                found.append(Area(stamp.area(channel), stamp.box))
        yield from _together(found)

    def _ink(self, ink: Image.Image, area: Area, hiding: float) -> None:
        """Ink that covers a share of what it lies on, and colours the rest."""
        if hiding < 1:
            through = ImageChops.multiply(self.colour.crop(area.box), ink)
            ink = Image.blend(through, ink, hiding)
        self._cover(ink, area, hiding)
        if self.metal:
            self._over("metal", 0, area, hiding)
        if self.see_through or (self.metal and self._starts["metal"]):
            self._over("gloss", round(255 * INK_GLOSS), area, hiding)

    def _cover(self, colour: Image.Image, area: Area, hiding: float) -> None:
        if self.behind is not None:
            fresh = ImageChops.subtract(area.times(hiding), self.channel("presence").crop(area.box))
            self.behind.paste(colour, area.box, fresh)
            self._over("presence", 255, area, hiding)
        self.colour.paste(colour, area.box, area.mask)

    def _over(self, name: str, value: int, area: Area, share: float = 1.0) -> None:
        self.channel(name).paste(value, area.box, area.times(share))

    def _iron(self, area: Area) -> None:
        """Flatten what stands out of an area, as a hot die does."""
        if self.height is not None:
            left, top, right, foot = area.box
            self.height[top:foot, left:right] *= 1 - IRONED / 255 * np.asarray(area.mask, np.float32)

    def _press(self, area: Area, mm: float, flank: float) -> None:
        """Lift an area by so many mm, with an S-shaped flank that is half inside of it."""
        if self.height is None:
            self.height = np.zeros(self.size[::-1], np.float32)
        reach = round(flank * self.scale / 2) | 1  # an even one would move it by half a texel
        left, top, right, foot = (
            max(area.box[0] - reach, 0),
            max(area.box[1] - reach, 0),
            min(area.box[2] + reach, self.size[0]),
            min(area.box[3] + reach, self.size[1]),
        )
        rise = np.zeros((foot - top, right - left), np.float32)
        rows = slice(area.box[1] - top, area.box[3] - top)
        columns = slice(area.box[0] - left, area.box[2] - left)
        rise[rows, columns] = np.asarray(area.mask, np.float32) * (mm / 255)
        for axis in (0, 1, 0, 1):
            rise = uniform_filter1d(rise, reach, axis=axis, mode="nearest")
        self.height[top:foot, left:right] += rise

    def sheet(self) -> PrintedSheet:
        """What was printed, with what is cut out of it taken away."""
        cut = self._channels.get("cut")
        if cut is not None:
            self.channel("presence").paste(0, (0, 0), cut)
            if self.see_through:
                self.colour.paste("white", (0, 0), cut)
        arrays = {name: _fixed(np.asarray(image)) for name, image in self._channels.items()}
        relief, depth, low = None, 0.0, 0.0
        if self.height is not None:
            low = float(self.height.min())
            depth = float(self.height.max()) - low
            codes = np.subtract(self.height, low)
            codes *= DEEPEST / depth if depth else 0.0
            codes += 0.5
            relief = _fixed(codes.astype(np.uint16))
        size = (self.panel.width, self.panel.height)
        face = Texels(
            colour=_fixed(np.asarray(self.colour)),
            gloss=arrays.get("gloss"),
            metal=arrays.get("metal"),
            presence=arrays.get("presence"),
            relief=relief,
            depth=depth,
            size=size,
            through=self.see_through,
        )
        if self.behind is None:
            behind = self._bare_back(arrays["presence"]) if cut is not None else None
            return PrintedSheet(face, behind, self.metal, low)
        seen = self.colour.copy()
        seen.paste(self.behind, (0, 0), self.channel("presence"))
        behind = Texels(colour=_fixed(np.asarray(seen)), presence=arrays["presence"], size=size, through=True)
        return PrintedSheet(face, behind, self.metal, low)

    def _bare_back(self, presence: NDArray[Any]) -> Texels:
        """The stock from behind, where it is not cut out."""
        metal = np.full_like(presence, self._starts["metal"]) if "metal" in self._channels else None
        return Texels(
            colour=_fixed(np.asarray(Image.new("RGB", self.size, self._ground))),
            gloss=_fixed(np.full_like(presence, self._starts["gloss"])),
            metal=None if metal is None else _fixed(metal),
            presence=presence,
            size=(self.panel.width, self.panel.height),
        )


def counts(placement: Placement, layer: Layer) -> bool:
    """Whether a placement decides anything of a layer."""
    own = isinstance(layer, Ink) and layer.material is None
    if placement.printed and (layer.covers == "ink" or (own and layer.covers == "placed")):
        return True
    return layer.name in placement.areas


def metal_of(panel: Printed) -> str | None:
    """The metal of a panel's stock and foils: the only one, or silver, of which all others are tints."""
    made = [plain(layer.material) for layer in panel.layers if isinstance(layer, Foil)]
    stock = panel.made_of
    metals = {material.metal for material in [*made, *([stock] if isinstance(stock, Metal) else [])]}
    return None if not metals else metals.pop() if len(metals) == 1 else "silver"


def _together(areas: Sequence[Area]) -> Iterator[Area]:
    """Areas of one layer: where they lie over each other they are one."""
    if len(areas) < 2:
        yield from areas
        return
    left, top = (min(area.box[k] for area in areas) for k in (0, 1))
    right, foot = (max(area.box[k] for area in areas) for k in (2, 3))
    whole = Image.new("L", (right - left, foot - top))
    for area in areas:
        place = (area.box[0] - left, area.box[1] - top, area.box[2] - left, area.box[3] - top)
        whole.paste(ImageChops.lighter(whole.crop(place), area.mask), place)
    yield Area(whole, (left, top, right, foot))


def _fixed(pixels: NDArray[Any]) -> NDArray[Any]:
    pixels.setflags(write=False)
    return pixels
