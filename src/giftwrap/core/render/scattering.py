"""What a surface does with light, vectorised over rays: evaluating and sampling every kind of look.

Directions are in the frame of `optics_math`. Weights leave out the η² by which refraction
squeezes radiance: camera and lights both stand in air, where it cancels along every path.
"""

from __future__ import annotations

from dataclasses import dataclass

import drjit as dr
from drjit.llvm.ad import Array2f, Array3f, Bool, Float, UInt32

from giftwrap.core.materials.optics import OpticsKind, coat_shine
from giftwrap.core.render import optics_math as om

CLEAR, COAT, METAL, CLOUDY = (int(kind) for kind in OpticsKind)


@dataclass
class Look:
    """One ray's surface, seen from the side the ray comes from.

    kind : one of the kinds above
    alpha : GGX width of the surface; 0 is perfectly smooth (clear kinds only)
    index : refractive index beyond over this side; for coats, of the coat. 1 means no coat
    colour : of the matt base under its coat, or the tint of a metal
    n, k : complex refractive index of a metal
    escape : share of diffuse light that a coat lets in
    leaving : the ray comes out of a cloudy body
    """

    kind: UInt32
    alpha: Float
    index: Float
    colour: Array3f
    n: Array3f
    k: Array3f
    escape: Float
    leaving: Bool

    def is_smooth(self) -> Bool:
        """Whether light leaves in single directions, so that no lamp can be aimed at."""
        return (self.kind == CLEAR) & (self.alpha == 0)


def under_coat(colour: Array3f, index: Float, alpha: Float) -> Array3f:
    """What a matt base must be so that it has a colour as it is seen through its coat.

    Seen from straight above under even light, a coat adds its shine and takes what it keeps out:
    shine + (1 − F₀) · base. Colours darker than the shine end at it.
    """
    straight, shine = coat_shine(index, alpha)
    return dr.clip((colour - shine) / (1 - straight), 0, 1)


@dataclass
class Scattered:
    """A sampled direction.

    direction : in the frame; below the surface when z < 0
    weight : scattered light times cosine over density
    density : per solid angle; 0 for a single direction
    matt_share : share of the weight that is neither a reflection nor a highlight
    reflected : it is a reflection or a highlight
    """

    direction: Array3f
    weight: Array3f
    density: Float
    matt_share: Float
    reflected: Bool


@dr.syntax
def evaluate(look: Look, towards: Array3f, out: Array3f) -> tuple[Array3f, Array3f, Float]:
    """Light scattered from `out` to `towards`: matt part, highlight, each times cosine; density.

    The density is that of `scatter` choosing `out`. All are 0 on smooth clear surfaces.
    """
    above = out.z > 0
    alpha = dr.maximum(look.alpha, 1e-3)
    cos_in = dr.maximum(towards.z, 1e-6)
    micro = dr.normalize(towards + out)
    facing = dr.maximum(dr.dot(towards, micro), 0)
    glossy, _ = om.dielectric_reflectance(facing, look.index)
    fresnel = Array3f(glossy)
    if look.kind == METAL:
        fresnel = look.colour * om.conductor_reflectance(facing, look.n, look.k)
    spread = om.ggx_density(micro, alpha)
    highlight_density = spread / (4 * cos_in * (1 + om.smith_lambda(towards, alpha)))
    highlight = fresnel * highlight_density / (1 + om.smith_lambda(out, alpha))
    coat_in, _ = om.dielectric_reflectance(cos_in, look.index)
    coat_in = dr.select(look.leaving, 0.0, coat_in)
    coat_out, _ = om.dielectric_reflectance(dr.maximum(out.z, 0), look.index)
    base = (1 - coat_in) * (1 - coat_out) / (om.PI * look.escape) * dr.maximum(out.z, 0)
    has_base = (look.kind == COAT) | look.leaving
    matt = dr.select(above & has_base, look.colour * base, 0.0)
    choose = _highlight_chance(look, coat_in)
    coated = above & (choose > 0) & ~look.leaving
    highlight = dr.select(coated, highlight, 0.0)
    density = dr.select(coated, choose * highlight_density, 0.0)
    density += dr.select(above & has_base, (1 - choose) * dr.maximum(out.z, 0) / om.PI, 0.0)

    if (look.kind == CLEAR) & (look.alpha > 0):
        shone, through, density = _evaluate_frosted(look, alpha, towards, out)
        highlight, matt = Array3f(shone), Array3f(through)
    smooth = look.is_smooth()
    return (
        dr.select(smooth, 0.0, matt),
        dr.select(smooth, 0.0, highlight),
        dr.select(smooth, 0.0, density),
    )


def scatter(look: Look, towards: Array3f, reflect_chance: Float, pick: Float, sample: Array2f) -> Scattered:
    """Sample where light that reaches `towards` came from.

    reflect_chance : probability of reflecting at smooth clear surfaces; any value strictly
        between 0 and 1 is right, a good one means less noise
    """
    smooth = look.is_smooth()
    frosted = (look.kind == CLEAR) & ~smooth
    micro = om.visible_normal(towards, dr.maximum(look.alpha, 1e-3), sample)
    micro = dr.select(smooth, Array3f(0, 0, 1), micro)
    facing = dr.maximum(dr.dot(towards, micro), 0)
    glossy, cos_out = om.dielectric_reflectance(facing, look.index)
    mirror = om.mirrored(towards, micro)
    bent = om.refracted(towards, micro, cos_out, look.index)
    # clear: reflect or refract about the micro normal
    chance = dr.select(smooth, dr.select(glossy >= 1, 1.0, reflect_chance), glossy)
    reflects = pick < chance
    clear_out = dr.select(reflects, mirror, bent)
    clear_weight = dr.select(
        reflects, glossy / dr.maximum(chance, 1e-9), (1 - glossy) / dr.maximum(1 - chance, 1e-9)
    )
    # coat, metal and cloudy: the highlight or what lies under it
    coat_in, _ = om.dielectric_reflectance(dr.maximum(towards.z, 0), look.index)
    coat_in = dr.select(look.leaving, 0.0, coat_in)
    choose = _highlight_chance(look, coat_in)
    shines = pick < choose
    base_out = om.cosine_hemisphere(sample)
    enters = (look.kind == CLOUDY) & ~look.leaving & ~shines
    base_out = dr.select(enters, -base_out, base_out)
    out = dr.select(look.kind == CLEAR, clear_out, dr.select(shines, mirror, base_out))
    reflected = dr.select(look.kind == CLEAR, reflects, shines)

    matt, highlight, density = evaluate(look, towards, out)
    whole = matt + highlight
    astray = frosted & (reflects != (out.z > 0))  # a tilted micro surface sent it through the large one
    weight = dr.select((density > 0) & ~astray, whole / dr.maximum(density, 1e-20), 0.0)
    share = om.luminance(matt) / dr.maximum(om.luminance(whole), 1e-12)
    weight = dr.select(smooth, Array3f(clear_weight), weight)
    weight = dr.select(enters, Array3f((1 - coat_in) / dr.maximum(1 - choose, 1e-6)), weight)
    density = dr.select(smooth | enters, 0.0, density)
    share = dr.select(smooth | frosted, dr.select(reflected, 0.0, 1.0), dr.select(enters, 1.0, share))
    return Scattered(out, weight, density, share, reflected)


def _highlight_chance(look: Look, coat_in: Float) -> Float:
    """Probability of sampling the highlight rather than what lies under it."""
    under = (1 - coat_in) * dr.select(look.kind == COAT, om.luminance(look.colour), 1.0)
    chance = dr.clip(coat_in / dr.maximum(coat_in + under, 1e-6), 0.08, 0.95)
    chance = dr.select((look.index == 1) | look.leaving, 0.0, chance)
    return dr.select(look.kind == METAL, 1.0, chance)


def _evaluate_frosted(look: Look, alpha: Float, towards: Array3f, out: Array3f) -> tuple[Float, Float, Float]:
    """Rough boundary between clear media (Walter et al. 2007): reflected, transmitted, density."""
    reflects = out.z > 0
    joint = dr.select(reflects, towards + out, towards + out * look.index)
    micro = dr.normalize(joint)
    micro = dr.select(micro.z < 0, -micro, micro)
    dot_in, dot_out = dr.dot(towards, micro), dr.dot(out, micro)
    valid = (dot_in > 0) & (dr.select(reflects, dot_out, -dot_out) > 0)
    fresnel, _ = om.dielectric_reflectance(dr.maximum(dot_in, 0), look.index)
    seen = om.visible_normal_density(towards, micro, alpha)
    squeeze = dot_in + look.index * dot_out
    to_reflected = dr.rcp(dr.maximum(4 * dot_in, 1e-9))
    to_refracted = look.index * look.index * dr.abs(dot_out) / dr.maximum(squeeze * squeeze, 1e-12)
    density = seen * dr.select(reflects, fresnel * to_reflected, (1 - fresnel) * to_refracted)
    value = density / (1 + om.smith_lambda(out, alpha))
    valid &= (dr.abs(out.z) > 1e-6) & (density < 1e12)
    value, density = dr.select(valid, value, 0.0), dr.select(valid, density, 0.0)
    return dr.select(reflects, value, 0.0), dr.select(reflects, 0.0, value), density
