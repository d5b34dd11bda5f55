"""The one place where what something is made of becomes how light treats it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum

import numpy as np
from numpy.typing import NDArray

from giftwrap.core.grade.display import linear_colour
from giftwrap.core.model import Clear, Opaque

Colour = tuple[float, float, float]

SMOOTHEST, ROUGHEST = 0.03, 0.55
"""Microfacet width (GGX α) of the glossiest and the least glossy coat."""
MATT = 0.02
"""Below this gloss a surface is plain Lambertian."""
INK_INDEX = 1.49
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


@dataclass(frozen=True, eq=False)
class Optics:
    """How light treats a surface. `front` is the medium its normals point into.

    alpha : GGX width, 0 for perfectly smooth boundaries between clear media
    coat_index : refractive index of the clear coat over that of the front medium; 1 for none
    print : (h, w, 3) uint8 sRGB, top row first, in place of `colour`
    """

    kind: OpticsKind
    alpha: float = 0.0
    coat_index: float = 1.0
    colour: Colour = WHITE
    n: Colour = WHITE
    k: Colour = BLACK
    front: Medium = AIR
    back: Medium = AIR
    print: NDArray[np.uint8] | None = None


def medium_of(material: Clear) -> Medium:
    """A clear material as a medium: white light keeps its colour after its depth."""
    colour = np.maximum(np.array(linear_colour(material.colour)), 1e-4)
    red, green, blue = (float(v) for v in -np.log(colour) / material.depth)
    return Medium(index=material.refractive_index, absorption=(red, green, blue))


def boundary_optics(behind: Medium, front: Medium = AIR) -> Optics:
    """The boundary between two clear media."""
    return Optics(OpticsKind.CLEAR, front=front, back=behind)


def coat_optics(
    material: Opaque, *, print: NDArray[np.uint8] | None = None, front: Medium = AIR  # noqa: A002
) -> Optics:
    """A painted, printed or moulded surface."""
    matt = material.gloss < MATT
    return Optics(
        OpticsKind.COAT,
        alpha=ROUGHEST * (SMOOTHEST / ROUGHEST) ** material.gloss,
        coat_index=1.0 if matt else max(INK_INDEX / front.index, 1.0),
        colour=linear_colour(material.colour),
        front=front,
        back=front,
        print=print,
    )
