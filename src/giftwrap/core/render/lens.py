"""Where paths begin: in the opening of a camera, or on a body that light is gathered from."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import drjit as dr
import numpy as np
from drjit.llvm.ad import PCG32, Array2f, Array3f, Array4f, Bool, Float, UInt32, UInt64

from giftwrap.core.model import Camera
from giftwrap.core.render import optics_math as om
from giftwrap.core.render.arriving import OFFSET
from giftwrap.core.render.emitters import opaque3
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.memory import aligned
from giftwrap.core.render.planning import Region
from giftwrap.core.render.sequence import LENS, PLACE, evenly
from giftwrap.core.stage.camera import axes_of, view_of


@dataclass
class Lens:
    """A camera as kernels read it: eye, axes, and what the picture takes in.

    Rays go through points of a frame 1 mm away, `spread` mm wide and high; where `flat` is 1 the
    frame is where rays start and all of them are parallel. `width` and `height` of the whole
    picture are in pixels, as are the left and top edge and the columns of the region looked at. The
    frame is moved by `centre_x` and `centre_y` mm. Rays begin anywhere in an opening of a radius of
    `aperture` mm, round or with `blades`, and what is `focus` mm away along the axis is sharp.

    Where `scattered` is set there is no camera: each pixel is a place from which light is followed out of a
    cloudy body. `places` has eight numbers for each: where it is, which way is out, and the body's medium.
    """

    eye: Array3f
    forward: Array3f
    right: Array3f
    up: Array3f
    spread_x: Float
    spread_y: Float
    flat: Float
    width: Float
    height: Float
    left: Float
    top: Float
    columns: Float
    centre_x: Float
    centre_y: Float
    aperture: Float
    focus: Float
    blades: Float
    scattered: Bool
    places: Float


def lens_of(camera: Camera, size: tuple[int, int], region: Region) -> Lens:
    """A camera for pictures of a size in px, ready for kernels."""
    width, height = size
    view = view_of(camera, width / height)
    forward, right, up = axes_of(view)
    if view.width is not None and view.height is not None:
        spread, flat = (view.width, view.height), 1.0
    else:
        high = 2 * np.tan(np.radians(view.vertical_angle) / 2)
        spread, flat = (high * width / height, high), 0.0
    centre = (view.shift * spread[0], view.rise * spread[1])
    numbers = (
        *(*spread, flat, width, height, region.left, region.top, region.width),
        *(*centre, view.aperture, view.focus, view.blades),
    )
    nowhere = (dr.opaque(Bool, False), aligned(Float, np.zeros(16)))
    return Lens(
        opaque3(np.array(view.position)),
        opaque3(forward),
        opaque3(right),
        opaque3(up),
        *(*(dr.opaque(Float, float(n)) for n in numbers), *nowhere),
    )


@dr.syntax
def first_ray(
    lens: Lens, pixel: UInt32, sample: UInt32, seed: UInt32, key: UInt32
) -> tuple[Array3f, Array3f, UInt32, PCG32]:
    """Origin and direction of a ray, what it travels in, and its random numbers.

    These depend on pixel, seed (from which the key is made) and number of the sample alone, however
    work is cut.
    """
    engine: Any = light_engine()
    a, b = engine.sample_tea_32(pixel, seed + sample * UInt32(0x9E3779B9), 4)
    rng = PCG32(1, UInt64(0), UInt64(0))
    rng.seed(UInt64(a), UInt64(b))
    columns = UInt32(lens.columns)
    place = evenly(key, sample, UInt32(PLACE))
    x = lens.left + Float(pixel % columns) + place.x
    y = lens.top + Float(pixel // columns) + place.y
    across = (x / lens.width - 0.5) * lens.spread_x + lens.centre_x
    up = (0.5 - y / lens.height) * lens.spread_y + lens.centre_y
    in_frame = lens.right * across + lens.up * up
    origin = lens.eye + in_frame * lens.flat
    towards = lens.forward + in_frame * (1 - lens.flat)
    aside = dr.zeros(Array3f, dr.width(place))
    if (lens.aperture > 0) & (place.x < 2):
        within = in_opening(evenly(key, sample, UInt32(LENS)), lens.blades)
        aside = (lens.right * within.x + lens.up * within.y) * lens.aperture
    origin = origin + aside
    direction = dr.normalize(towards - aside / lens.focus)
    where = dr.gather(Array4f, lens.places, 2 * pixel, lens.scattered)
    out = dr.gather(Array4f, lens.places, 2 * pixel + 1, lens.scattered)
    beneath = Array3f(where.x, where.y, where.z)
    outwards = Array3f(out.x, out.y, out.z)
    beneath -= outwards * (1 + dr.max(dr.abs(beneath))) * OFFSET
    origin = dr.select(lens.scattered, beneath, origin)
    direction = dr.select(lens.scattered, outwards, direction)
    return origin, direction, dr.select(lens.scattered, UInt32(where.w), UInt32(0)), rng


def in_opening(sample: Array2f, blades: Float) -> Array2f:
    """A place in an opening of radius 1, evenly: round, or a polygon of the same area with its point up."""
    sine, cosine = dr.sincos(2 * om.PI * sample.x)
    far = dr.sqrt(sample.y)
    sides = dr.maximum(blades, 3)
    sector = dr.minimum(dr.floor(sample.x * sides), sides - 1)
    along, half = sample.x * sides - sector, om.PI / sides
    reach = far * dr.sqrt(half / (dr.sin(half) * dr.cos(half)))
    (s0, c0), (s1, c1) = dr.sincos(2 * half * sector), dr.sincos(2 * half * (sector + 1))
    cornered = Array2f(dr.lerp(s0, s1, along), dr.lerp(c0, c1, along)) * reach
    return dr.select(blades > 2, cornered, Array2f(cosine, sine) * far)
