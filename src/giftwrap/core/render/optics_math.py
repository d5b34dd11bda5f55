"""Reflection, refraction and roughness in the shading frame, vectorised over rays.

Directions are unit vectors away from the surface in a frame whose z axis is the normal on the
side the ray comes from. Formulas are exact unless their name says otherwise.
"""

from __future__ import annotations

import drjit as dr
from drjit.llvm.ad import Array2f, Array3f, Float

from giftwrap.core.materials.optics import FUZZ

PI = 3.14159265358979


def dielectric_reflectance(cos_in: Float, index: Float) -> tuple[Float, Float]:
    """Fresnel's equations, unpolarised (Born and Wolf, Principles of Optics, 1.5.2).

    cos_in : cosine of the angle of incidence, 0..1
    index : refractive index beyond the surface over the one on this side
    returns : reflectance, and the cosine of the refracted angle (0 under total reflection)
    """
    sin2 = (1 - cos_in * cos_in) / (index * index)
    cos_out = dr.safe_sqrt(1 - sin2)
    across = (cos_in - index * cos_out) / dr.maximum(cos_in + index * cos_out, 1e-9)
    along = (index * cos_in - cos_out) / dr.maximum(index * cos_in + cos_out, 1e-9)
    partial = 0.5 * (across * across + along * along)
    return dr.select(sin2 >= 1, 1.0, dr.select(index == 1, 0.0, partial)), cos_out


def conductor_reflectance(cos_in: Float, n: Array3f, k: Array3f) -> Array3f:
    """Fresnel's equations for a complex index n + ik, unpolarised (Born and Wolf, 14.2)."""
    cos2 = cos_in * cos_in
    sin2 = 1 - cos2
    n2, k2 = n * n, k * k
    inner = n2 - k2 - sin2
    ab = dr.sqrt(inner * inner + 4 * n2 * k2)
    a = dr.safe_sqrt(0.5 * (ab + inner))
    across = (ab + cos2 - 2 * a * cos_in) / (ab + cos2 + 2 * a * cos_in)
    tail = cos2 * ab + sin2 * sin2
    shift = 2 * a * cos_in * sin2
    along = across * (tail - shift) / (tail + shift)
    return 0.5 * (across + along)


def mirrored(direction: Array3f, micro: Array3f) -> Array3f:
    """Direction reflected about a micro normal; both point away from the surface."""
    return 2 * dr.dot(direction, micro) * micro - direction


def refracted(direction: Array3f, micro: Array3f, cos_out: Float, index: Float) -> Array3f:
    """Direction of the refracted ray, beyond the surface (Snell)."""
    ratio = dr.rcp(index)
    return (ratio * dr.dot(direction, micro) - cos_out) * micro - ratio * direction


def ggx_density(micro: Array3f, alpha: Array2f) -> Float:
    """D(m) of the GGX distribution, of a width along each axis (Heitz 2014, equation 85)."""
    x, y, z = micro.x / alpha.x, micro.y / alpha.y, micro.z
    spread = x * x + y * y + z * z
    return dr.select(z > 0, dr.rcp(PI * alpha.x * alpha.y * spread * spread), 0.0)


def smith_lambda(direction: Array3f, alpha: Array2f) -> Float:
    """Smith's Λ of a direction for GGX (Heitz 2014, equations 72 and 87)."""
    z2 = dr.maximum(direction.z * direction.z, 1e-12)
    x, y = alpha.x * direction.x, alpha.y * direction.y
    return 0.5 * (dr.sqrt(1 + (x * x + y * y) / z2) - 1)


def visible_normal(direction: Array3f, alpha: Array2f, sample: Array2f) -> Array3f:
    """Sample GGX normals visible from a direction (Dupuy and Benyoub 2023, spherical caps)."""
    warped = dr.normalize(Array3f(direction.x * alpha.x, direction.y * alpha.y, direction.z))
    sin_azimuth, cos_azimuth = dr.sincos(2 * PI * sample.x)
    z = (1 - sample.y) * (1 + warped.z) - warped.z
    reach = dr.safe_sqrt(1 - z * z)
    half = Array3f(reach * cos_azimuth + warped.x, reach * sin_azimuth + warped.y, z + warped.z)
    return dr.normalize(Array3f(half.x * alpha.x, half.y * alpha.y, dr.maximum(half.z, 1e-6)))


def visible_normal_density(direction: Array3f, micro: Array3f, alpha: Array2f) -> Float:
    """Solid-angle density with which `visible_normal` returns a micro normal."""
    shadowing = dr.rcp(1 + smith_lambda(direction, alpha))
    facing = dr.maximum(dr.dot(direction, micro), 0)
    return shadowing * facing * ggx_density(micro, alpha) / dr.maximum(direction.z, 1e-6)


def cosine_hemisphere(sample: Array2f) -> Array3f:
    """Direction with density cos θ / π."""
    radius = dr.sqrt(sample.x)
    sin_azimuth, cos_azimuth = dr.sincos(2 * PI * sample.y)
    return Array3f(radius * cos_azimuth, radius * sin_azimuth, dr.safe_sqrt(1 - sample.x))


def uniform_sphere(sample: Array2f) -> Array3f:
    """Direction with density 1 / 4π."""
    z = 1 - 2 * sample.x
    radius = dr.safe_sqrt(1 - z * z)
    sin_azimuth, cos_azimuth = dr.sincos(2 * PI * sample.y)
    return Array3f(radius * cos_azimuth, radius * sin_azimuth, z)


def frame_around(normal: Array3f) -> tuple[Array3f, Array3f]:
    """Two directions that complete a normal to a frame (Duff et al. 2017)."""
    sign = dr.copysign(Float(1), normal.z)
    a = -dr.rcp(sign + normal.z)
    b = normal.x * normal.y * a
    return (
        Array3f(1 + sign * normal.x * normal.x * a, sign * b, -sign * normal.x),
        Array3f(b, sign + normal.y * normal.y * a, -normal.y),
    )


def into_frame(direction: Array3f, s: Array3f, t: Array3f, n: Array3f) -> Array3f:
    """A direction of the set in a surface's frame."""
    return Array3f(dr.dot(direction, s), dr.dot(direction, t), dr.dot(direction, n))


def out_of_frame(direction: Array3f, s: Array3f, t: Array3f, n: Array3f) -> Array3f:
    """A direction of a surface's frame on the set."""
    return s * direction.x + t * direction.y + n * direction.z


def luminance(colour: Array3f) -> Float:
    """Rec. ITU-R BT.709 luminance."""
    return 0.2126 * colour.x + 0.7152 * colour.y + 0.0722 * colour.z


def power_share(density: Float, other: Float) -> Float:
    """Veach's power heuristic, β = 2, of two strategies."""
    a, b = density * density, other * other
    return dr.select(a + b > 0, a / (a + b), 0.0)


def fuzz_scattered(towards: Array3f, out: Array3f) -> Float:
    """The fuzz's share of light per solid angle, without its colour and the cosine: D(h) of inverted Gaussian
    fibres (Estevez and Kulla 2017, equation 2) and the visibility of KHR_materials_sheen, 1 / 4(l + v − l v).
    """
    half = dr.normalize(towards + out)
    sine = dr.safe_sqrt(1 - half.z * half.z)
    spread = (2 + 1 / FUZZ) * sine ** (1 / FUZZ) / (2 * PI)
    a, b = dr.maximum(towards.z, 1e-4), dr.maximum(out.z, 1e-4)
    return dr.select(out.z > 0, spread / (4 * (a + b - a * b)), 0.0)


def fuzz_returned(cosine: Float) -> Float:
    """Share of all light that white fuzz returns from a direction: a fit to the integral of `fuzz_scattered`,
    good to 0.01."""
    x = 1 - dr.clip(cosine, 0, 1)
    found = Float(0)
    for weight in FUZZ_FIT:
        found = found * x + weight
    return dr.clip(found, 0, 1)


FUZZ_FIT = (5.84398, -14.70051, 14.21485, -6.29205, 1.46047, 0.18308, 0.06632)
"""Weights of the powers of one less the cosine, the highest first."""
