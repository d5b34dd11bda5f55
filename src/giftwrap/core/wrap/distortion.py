"""What becomes of a print where it lies: how much longer or shorter it is in every place, and artwork drawn
so that this is taken back."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely
from PIL import Image
from scipy.ndimage import map_coordinates

from giftwrap.core.errors import PackError
from giftwrap.core.mesh.path import Array
from giftwrap.core.wrap.laid import Laid

CELLS = 24
"""Of a map along its longer side."""
LEAST_SHARE = 0.05
"""Of a page that is taken back no further: film that shrinks by more has no room for it."""


@dataclass(frozen=True)
class DistortionMap:
    """How long a mm of a page is on the pack, in cells of it from its lower left corner, row by row.

    across, up : (rows, columns) float; nan where a cell is cut away
    """

    across: Array
    up: Array


def distortion_of(sheet: Laid) -> DistortionMap:
    """How a panel is stretched where it lies."""
    face, page = sheet.face, np.array([sheet.printed.width, sheet.printed.height])
    columns, rows = (max(round(CELLS * side / page.max()), 2) for side in page)
    places = face.uvs * page
    a, b, c = (places[face.faces[:, k]] for k in range(3))
    p, q, r = (face.positions[face.faces[:, k]] for k in range(3))
    flat = np.stack([b - a, c - a], axis=-1)
    det = flat[:, 0, 0] * flat[:, 1, 1] - flat[:, 0, 1] * flat[:, 1, 0]
    sound = np.abs(det) > 1e-9
    way = np.stack([q - p, r - p], axis=-1)[sound] @ np.linalg.inv(flat[sound])
    longer = np.linalg.norm(way, axis=1)
    triangles = shapely.polygons(np.stack([a, b, c], axis=1)[sound])
    middles = (np.indices((rows, columns))[::-1].reshape(2, -1).T + 0.5) / [columns, rows] * page
    points = shapely.points(middles)
    nearest = shapely.STRtree(triangles).nearest(points)
    away = shapely.distance(points, triangles[nearest]) > 0.01
    found = np.where(away[:, None], np.nan, longer[nearest])
    return DistortionMap(found[:, 0].reshape(rows, columns), found[:, 1].reshape(rows, columns))


def compensated(sheet: Laid, print_: Image.Image) -> Image.Image:
    """A print of a panel drawn so that on the pack everything is as wide as it was meant, from its middle on.

    print_ : RGBA or RGB, of the whole page. What goes beyond the page is cut off.

    Raises PackError when the panel does not narrow, so that there is nothing to take back.
    """
    factors = sheet.factors
    if factors is None or np.ptp(factors[:, 1]) < 1e-4:
        raise PackError(
            f"“{sheet.panel.name}” is not pulled narrower or wider anywhere: its artwork is right as it is."
        )
    pixels = np.asarray(print_.convert("RGBa"))
    high, wide = pixels.shape[:2]
    up = (high - 0.5 - np.arange(high)) / high * sheet.printed.height
    factor = np.maximum(np.interp(up, factors[:, 0], factors[:, 1]), LEAST_SHARE)
    # what stands at a place of the new drawing was meant so much nearer to the middle, or further from it
    meant = wide / 2 + (np.arange(wide)[None] + 0.5 - wide / 2) * factor[:, None] - 0.5
    rows = np.broadcast_to(np.arange(high)[:, None], meant.shape)
    drawn = [
        map_coordinates(pixels[..., k], [rows, meant], output=np.uint8, order=1, mode="nearest")
        for k in range(4)
    ]
    return Image.fromarray(np.dstack(drawn), "RGBa").convert("RGBA")
