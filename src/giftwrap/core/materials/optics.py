"""The one place where what something is made of becomes how light treats it."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import IntEnum
from typing import Any

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.grade.display import encode_srgb, linear_colour
from giftwrap.core.materials.patterns import Pattern
from giftwrap.core.model import Clear, Cloudy, Metal, Opaque
from giftwrap.core.model.material import Material
from giftwrap.core.model.worked import Fade, Film, Grain

Colour = tuple[float, float, float]

SMOOTHEST, ROUGHEST = 0.03, 0.55
"""Microfacet width (GGX α) of the glossiest and the least glossy coat."""
FUZZ = 0.4
"""Roughness of fuzz: how far it glows in from the edges."""
MATT = 0.02
"""Below this gloss a surface is plain Lambertian."""
INK_INDEX = 1.49
PRINTED_OVER = {"fade": None, "film": None, "passes": 0.0}
"""What is not seen of a stock under print."""
WHITE: Colour = (1.0, 1.0, 1.0)
BLACK: Colour = (0.0, 0.0, 0.0)


class OpticsKind(IntEnum):
    """How a surface treats light; numbers as in `render.scattering`."""

    CLEAR = 0
    COAT = 1
    METAL = 2
    CLOUDY = 3


@dataclass(frozen=True)
class Medium:
    """What fills a space.

    absorption : per mm, linear Rec.709 (Beer–Lambert)
    mean_free_path : mm between scatterings of light that wanders; 0 where it does not
    albedo : light left after one scattering
    """

    index: float = 1.0
    absorption: Colour = BLACK
    mean_free_path: float = 0.0
    albedo: Colour = BLACK


AIR = Medium()

METALS: dict[str, tuple[Colour, Colour]] = {
    "aluminium": ((1.6575, 0.8804, 0.5212), (9.2238, 6.2695, 4.8370)),
    "silver": ((0.1553, 0.1167, 0.1384), (4.8284, 3.1222, 2.1469)),
    "gold": ((0.1430, 0.3753, 1.4420), (3.9830, 2.3856, 1.6034)),
    "copper": ((0.2010, 0.9237, 1.1022), (3.9133, 2.4530, 2.1421)),
    "chrome": ((4.3697, 2.9165, 1.6549), (5.2065, 4.2313, 3.7547)),
}
"""Complex refractive index n + ik of metals in linear Rec.709, from the measured spectra that the
renderer library ships (its tables Al, Ag, Au, Cu and Cr)."""


@dataclass(frozen=True, eq=False)
class Texels:
    """What changes from place to place of a surface: arrays of one (h, w), top row first. What is None is
    as the surface has it.

    colour : (h, w, 3) uint8 sRGB, of the matt base; of bare metal, its tint
    gloss : (h, w) uint8, from dead matt to polished
    metal : (h, w) uint8, share that is bare metal, by the surface's n and k
    presence : (h, w) uint8, share that is there; light passes the rest. Both sides are then of one medium
    relief : (h, w) uint16, from the lowest to the highest place, which are `depth` mm apart
    size : width and height of the sheet in mm
    through : whether colour also colours the light that passes: it is what would be seen over white, where
        light passes twice
    """

    colour: NDArray[np.uint8] | None = None
    gloss: NDArray[np.uint8] | None = None
    metal: NDArray[np.uint8] | None = None
    presence: NDArray[np.uint8] | None = None
    relief: NDArray[np.uint16] | None = None
    depth: float = 0.0
    size: tuple[float, float] = (1.0, 1.0)
    through: bool = False

    @property
    def _given(self) -> tuple[NDArray[Any] | None, ...]:
        return self.colour, self.gloss, self.metal, self.presence, self.relief

    @property
    def bytes(self) -> int:
        """What its arrays take in memory."""
        return sum(values.nbytes for values in self._given if values is not None)

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns. Raises ValueError when the arrays differ or there are none."""
        shapes = {values.shape[:2] for values in self._given if values is not None}
        if len(shapes) != 1:
            raise ValueError("The parts of a texture are of one size.")
        height, width = shapes.pop()
        return height, width

    @property
    def key(self) -> tuple[object, ...]:
        """Equal for textures of the same arrays."""
        return (*map(id, self._given), self.depth, self.size, self.through)


@dataclass(frozen=True)
class Stance:
    """How the part that a surface bounds stands in its thing, so that patterns lie on it as it was made.

    to_part : (3, 4) rows of numbers: from the thing's coordinates, mm, to the part's: its foot on z = 0, its
        axis over the origin, its front at −y
    radius : mm from the axis where what is wrapped around is true to scale
    inside : the surface is the inside of a wall
    """

    to_part: tuple[tuple[float, ...], ...] = ((1.0, 0, 0, 0), (0, 1.0, 0, 0), (0, 0, 1.0, 0))
    radius: float = 20.0
    inside: bool = False


UPRIGHT = Stance()


@dataclass(frozen=True)
class Detail:
    """What a surface does beyond its kind, and what differs from place to place of its part.

    film : what it mirrors, with `under` as the n and k of what lies beneath, front as of the surface
    sheen, passes : what fuzz returns at grazing angles; light that a thin sheet lets through
    lacquer : GGX width of a clear coat over metal; 0 for none
    faded : GGX width that it fades to
    sheet : the pictures that its grain names
    """

    stance: Stance = UPRIGHT
    grain: Grain | None = None
    sheet: Pattern | None = None
    fade: Fade | None = None
    film: Film | None = None
    under: tuple[Colour, Colour] = (WHITE, BLACK)
    sheen: Colour = BLACK
    passes: Colour = BLACK
    lacquer: float = 0.0
    faded: float = 0.0


@dataclass(frozen=True, eq=False)
class Optics:
    """How light treats a surface. `front` is the medium its normals point into.

    alpha : GGX width, 0 for perfectly smooth boundaries between clear media
    coat_index : refractive index of the clear coat over that of the front medium; 1 for none
    texels : what changes from place to place; behind : as it is seen from its back, of the same size
    detail : what it does besides; None for nothing
    """

    kind: OpticsKind
    alpha: float = 0.0
    coat_index: float = 1.0
    colour: Colour = WHITE
    n: Colour = WHITE
    k: Colour = BLACK
    front: Medium = AIR
    back: Medium = AIR
    texels: Texels | None = None
    behind: Texels | None = None
    detail: Detail | None = None


def coat_shine(index: Any, alpha: Any) -> tuple[Any, Any]:
    """What a coat mirrors of even light, seen from straight above: Fresnel's F₀ if it is smooth, and as
    rough as it is. Numbers, or arrays of any kind.

    The share that a rough coat mirrors is a fit to the integral of single scattering by GGX surfaces of
    widths up to 0.6 (Walter et al. 2007), good to 0.02 of F₀.
    """
    straight = ((index - 1) / (index + 1)) ** 2
    return straight, straight * (1 - alpha * alpha * (0.8 + alpha * (2.2 - 2.9 * alpha)))


def deepest_colour(material: Material) -> str | None:
    """The darkest colour that can be printed under a material's coat, `#rrggbb`: the coat's own shine. None
    where it has none."""
    if not isinstance(material, Opaque):
        return None
    optics = surface_optics(material)
    _, shine = coat_shine(optics.coat_index, optics.alpha)
    code = round(255 * float(encode_srgb(np.array([shine], np.float32))[0]))
    return f"#{code:02x}{code:02x}{code:02x}"


def medium_of(material: Clear) -> Medium:
    """A clear material as a medium: white light keeps its colour after its depth."""
    colour = np.maximum(np.array(linear_colour(material.colour)), 1e-4)
    red, green, blue = (float(v) for v in -np.log(colour) / material.depth)
    return Medium(index=material.refractive_index, absorption=(red, green, blue))


def cloud_of(material: Cloudy) -> Medium:
    """A cloudy material as a medium in which light wanders.

    The light left after one scattering is found from the colour of a thick piece (Chiang, Kutz
    and Burley 2016, "Practical and controllable subsurface scattering", equation 2, from memory).
    """
    red, green, blue = (
        1 - math.exp(-5.09406 * a + 2.61188 * a**2 - 4.31805 * a**3) for a in linear_colour(material.colour)
    )
    return Medium(index=material.refractive_index, mean_free_path=material.wander, albedo=(red, green, blue))


def boundary_optics(behind: Medium, front: Medium = AIR, *, frost: float = 0.0) -> Optics:
    """The boundary between two clear media. `frost` runs from polished (0) to ground (1)."""
    return Optics(OpticsKind.CLEAR, alpha=frost_width(frost), front=front, back=behind)


def printed_optics(
    stock: Material,
    texels: Texels,
    *,
    behind: Texels | None = None,
    metal: str | None = None,
    front: Medium = AIR,
    stance: Stance = UPRIGHT,
) -> Optics:
    """A printed sheet of a stock, which keeps the stock's relief and fuzz.

    metal : what its metal texels are; their colour is a tint of it
    """
    opaque = (
        stock
        if isinstance(stock, Opaque)
        else Opaque(gloss=stock.gloss if isinstance(stock, Metal) else 1.0, grain=stock.grain)
    )
    n, k = METALS[metal] if metal else (WHITE, BLACK)
    plain = surface_optics(opaque.model_copy(update=PRINTED_OVER), front=front, stance=stance)
    return replace(plain, texels=texels, behind=behind, n=n, k=k)


def metal_shine(metal: str) -> Colour:
    """What a smooth metal mirrors of light from straight above (Born and Wolf, 14.2)."""
    n, k = (np.array(values) for values in METALS[metal])
    red, green, blue = (float(v) for v in ((n - 1) ** 2 + k**2) / ((n + 1) ** 2 + k**2))
    return red, green, blue


def metal_tint(material: Metal, of: str) -> tuple[int, int, int]:
    """The tint of another metal by which it mirrors what a material does, sRGB bytes."""
    shine = np.array(metal_shine(material.metal)) / metal_shine(of)
    codes = encode_srgb(np.clip(shine * linear_colour(material.tint), 0, 1).astype(np.float32))
    red, green, blue = (round(255 * float(code)) for code in codes)
    return red, green, blue


def material_optics(material: Material, *, front: Medium = AIR, stance: Stance = UPRIGHT) -> Optics:
    """The surface of something made of a material, seen through a front medium: wet frost is clear."""
    if not isinstance(material, Clear):
        return surface_optics(material, front=front, stance=stance)
    side = "inside" if stance.inside else "outside"
    frosted = front == AIR and material.frosted in ("both", side)
    plain = boundary_optics(medium_of(material), front, frost=material.frost if frosted else 0.0)
    under = ((material.refractive_index,) * 3, BLACK)
    return replace(plain, detail=_detail(Detail(stance, film=material.film, under=under), material, front))


def _detail(detail: Detail, material: Material, front: Medium) -> Detail | None:
    """What is done to a material's outside, where it is dry, and what goes through it; None for nothing."""
    if front != AIR or detail.stance.inside:
        through = material.grain is not None and material.grain.lies == "through"
        return Detail(detail.stance, material.grain, under=detail.under) if through else None
    width, fade = 0.0, material.fade
    if fade is not None:
        bare = isinstance(material, Clear) and fade.cover == 0
        width = frost_width(1 - fade.gloss) if bare else gloss_width(fade.gloss)
    whole = replace(detail, grain=material.grain, fade=fade, faded=width)
    return None if whole == Detail(detail.stance, under=detail.under) else whole


def _glossed(material: Material) -> bool:
    """Whether a picture says where it is how glossy."""
    return material.pictures is not None and material.pictures.gloss is not None


def frost_width(frost: float) -> float:
    """Microfacet width (GGX α) of ground glass, 0 where it is polished."""
    return SMOOTHEST + frost * (ROUGHEST - SMOOTHEST) if frost > 0 else 0.0


def thin_sheet(colour: Colour, passes: float) -> tuple[Colour, Colour]:
    """What each face of a sheet returns and lets through, so that both together let a share of the light pass
    that a stack of them would return.

    Two layers alike, between which light goes to and fro, are one of R = r + t² r / (1 − r²) and
    T = t² / (1 − r²) (Stokes 1862; Kubelka 1948); this is solved for r and t.
    """
    if passes <= 0:
        return colour, BLACK
    whole, through = np.array(colour) * (1 - passes), np.array(colour) * passes
    returned = whole / (1 + through)
    passing = np.sqrt(through * (1 - returned**2))
    (a, b, c), (d, e, f) = (tuple(float(v) for v in values) for values in (returned, passing))
    return (a, b, c), (d, e, f)


def gloss_width(gloss: float) -> float:
    """Microfacet width (GGX α) of a gloss: steps of gloss look even."""
    return float(ROUGHEST * (SMOOTHEST / ROUGHEST) ** gloss)


def gloss_of_width(width: Any) -> Any:
    """The gloss of a microfacet width (GGX α), numbers or arrays: `gloss_width` the other way around."""
    return np.log(np.maximum(width, 1e-4) / ROUGHEST) / math.log(SMOOTHEST / ROUGHEST)


def surface_optics(
    material: Opaque | Metal | Cloudy, *, front: Medium = AIR, stance: Stance = UPRIGHT
) -> Optics:
    """A surface that is not clear, seen through a front medium."""
    alpha = gloss_width(material.gloss)
    if isinstance(material, Metal):
        n, k = METALS[material.metal]
        tint = linear_colour(material.tint)
        lacquer = gloss_width(material.lacquer) if material.lacquer > 0 else 0.0
        detail = _detail(Detail(stance, film=material.film, under=(n, k), lacquer=lacquer), material, front)
        return Optics(
            OpticsKind.METAL, alpha=alpha, colour=tint, n=n, k=k, front=front, back=front, detail=detail
        )
    index = material.refractive_index if isinstance(material, Cloudy) else INK_INDEX
    matt = material.gloss < MATT and not _glossed(material)
    coat = 1.0 if matt else max(index / front.index, 1.0)
    detail = Detail(stance, film=material.film, under=((index,) * 3, BLACK))
    if isinstance(material, Cloudy):
        return Optics(
            OpticsKind.CLOUDY,
            alpha=alpha,
            coat_index=coat,
            front=front,
            back=cloud_of(material),
            detail=_detail(detail, material, front),
        )
    colour = linear_colour(material.colour)
    red, green, blue = (material.sheen * math.sqrt(value) for value in colour)
    fuzz: Colour = (red, green, blue)
    colour, through = thin_sheet(colour, material.passes)
    return Optics(
        OpticsKind.COAT,
        alpha=alpha,
        coat_index=coat,
        colour=colour,
        front=front,
        back=front,
        detail=_detail(replace(detail, sheen=fuzz, passes=through), material, front),
    )
