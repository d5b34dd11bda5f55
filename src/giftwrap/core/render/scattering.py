"""What a surface does with light, vectorised over rays: evaluating and sampling every kind of look.

Directions are in the frame of `optics_math`. Weights leave out the η² by which refraction
squeezes radiance: camera and lights both stand in air, where it cancels along every path.
"""

from __future__ import annotations

from dataclasses import dataclass

import drjit as dr
from drjit.llvm.ad import Array2f, Array3f, Bool, Float, UInt32

from giftwrap.core.materials.optics import INK_INDEX, OpticsKind, coat_shine
from giftwrap.core.render import optics_math as om
from giftwrap.core.render.details import Films

CLEAR, COAT, METAL, CLOUDY = (int(kind) for kind in OpticsKind)
LACQUER = INK_INDEX
"""Refractive index of the clear coat over metal."""


@dataclass
class Look:
    """One ray's surface, seen from the side the ray comes from.

    kind : one of the kinds above
    alpha : GGX widths of the surface along and across its grain; 0 is perfectly smooth (clear kinds only)
    index : refractive index beyond over this side; for coats, of the coat. 1 means no coat
    colour : of the matt base under its coat, or the tint of a metal
    n, k : complex refractive index of a metal
    escape : share of diffuse light that a coat lets in
    leaving : the ray comes out of a cloudy body
    tint : of light that goes through a clear surface, or into or out of a cloudy body
    sheen : of fuzz over a coat; passes : of light that goes on through a thin sheet
    lacquer : GGX width of a clear coat over metal, 0 for none
    film : number of a film among `films`, by which it mirrors; 0 for none
    """

    kind: UInt32
    alpha: Array2f
    index: Float
    colour: Array3f
    n: Array3f
    k: Array3f
    escape: Array3f
    leaving: Bool
    tint: Array3f
    sheen: Array3f
    passes: Array3f
    lacquer: Float
    film: UInt32
    films: Films

    def is_smooth(self) -> Bool:
        """Whether light leaves in single directions, so that no lamp can be aimed at."""
        return (self.kind == CLEAR) & (self.alpha.x == 0)

    def is_sheet(self) -> Bool:
        """Whether light goes on through it, spread in all directions."""
        return (self.kind == COAT) & (dr.max(self.passes) > 0)


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
    fresnel = mirrored_share(look, facing)
    spread = om.ggx_density(micro, alpha)
    highlight_density = spread / (4 * cos_in * (1 + om.smith_lambda(towards, alpha)))
    highlight = fresnel * highlight_density / (1 + om.smith_lambda(out, alpha))
    lit = dr.abs(out.z)
    coat_in, _ = om.dielectric_reflectance(cos_in, look.index)
    coat_in = dr.select(look.leaving, 0.0, coat_in)
    coat_out, _ = om.dielectric_reflectance(lit, look.index)
    base = Array3f((1 - coat_in) * (1 - coat_out) / om.PI * lit) / look.escape
    if look.film > 0:
        let_in = 1 - look.films.mirrored(look.film, cos_in, look.film > 0)
        let_out = 1 - look.films.mirrored(look.film, lit, look.film > 0)
        base = let_in * let_out / look.escape / om.PI * lit
    has_base = (look.kind == COAT) | look.leaving
    matt = dr.select(above & has_base, look.colour * base, 0.0)
    choose = _highlight_chance(look, coat_in)
    coated = above & (choose > 0) & ~look.leaving
    highlight = dr.select(coated, highlight, 0.0)
    density = dr.select(coated, choose * highlight_density, 0.0)
    sheet = look.is_sheet()
    through = _passing_chance(look)
    matt = dr.select(sheet & ~above, look.passes * base, matt)
    along = (1 - choose) * dr.select(above, 1 - through, through) * lit / om.PI
    density += dr.select((above & has_base) | sheet, along, 0.0)

    if (look.kind == COAT) & (dr.max(look.sheen) > 0):
        most = dr.max(look.sheen)
        left = 1 - most * dr.maximum(om.fuzz_returned(cos_in), om.fuzz_returned(lit))
        fuzz = dr.select(above, look.sheen * om.fuzz_scattered(towards, out) * lit, 0.0)
        matt = matt * left + fuzz
        highlight *= left
    if (look.kind == METAL) & (look.lacquer > 0):
        over = Array2f(look.lacquer)
        clear, _ = om.dielectric_reflectance(facing, LACQUER)
        shine_density = om.ggx_density(micro, over) / (4 * cos_in * (1 + om.smith_lambda(towards, over)))
        shine = clear * shine_density / (1 + om.smith_lambda(out, over))
        into, _ = om.dielectric_reflectance(cos_in, LACQUER)
        out_of, _ = om.dielectric_reflectance(lit, LACQUER)
        under = (1 - into) * (1 - out_of)
        highlight = dr.select(above, highlight * under + shine, 0.0)
        chance = _lacquer_chance(look, cos_in)
        density = dr.select(above, (1 - chance) * highlight_density + chance * shine_density, 0.0)
    if (look.kind == CLEAR) & (look.alpha.x > 0):
        highlight, matt, density = _evaluate_frosted(look, alpha, towards, out)
    smooth = look.is_smooth()
    return (
        dr.select(smooth, 0.0, matt),
        dr.select(smooth, 0.0, highlight),
        dr.select(smooth, 0.0, density),
    )


@dr.syntax
def mirrored_share(look: Look, cosine: Float) -> Array3f:
    """Share of light that a face mirrors at a cosine: Fresnel's, or a film's."""
    glossy, beyond = om.dielectric_reflectance(cosine, look.index)
    share = Array3f(glossy)
    if look.kind == METAL:
        share = look.colour * om.conductor_reflectance(cosine, look.n, look.k)
    if look.film > 0:
        inside = (look.kind == CLEAR) & (look.index < 1)
        filmed = look.films.mirrored(look.film, dr.select(inside, beyond, cosine), look.film > 0)
        filmed = dr.select(inside & (glossy >= 1), Array3f(1), filmed)
        share = dr.select(look.kind == METAL, look.colour * filmed, filmed)
    return share


def scatter(look: Look, towards: Array3f, reflect_chance: Float, pick: Float, sample: Array2f) -> Scattered:
    """Sample where light that reaches `towards` came from.

    reflect_chance : probability of reflecting at smooth clear surfaces; any value strictly
        between 0 and 1 is right, a good one means less noise
    """
    smooth = look.is_smooth()
    frosted = (look.kind == CLEAR) & ~smooth
    lacquered = (look.kind == METAL) & (pick < _lacquer_chance(look, dr.maximum(towards.z, 1e-6)))
    alpha = dr.select(lacquered, Array2f(look.lacquer), look.alpha)
    micro = om.visible_normal(towards, dr.maximum(alpha, 1e-3), sample)
    micro = dr.select(smooth, Array3f(0, 0, 1), micro)
    facing = dr.maximum(dr.dot(towards, micro), 0)
    glossy, cos_out = om.dielectric_reflectance(facing, look.index)
    shares = mirrored_share(look, facing)
    mirror = om.mirrored(towards, micro)
    bent = om.refracted(towards, micro, cos_out, look.index)
    # clear: reflect or refract about the micro normal
    chance = dr.select(smooth, dr.select(glossy >= 1, 1.0, reflect_chance), glossy)
    reflects = pick < chance
    clear_out = dr.select(reflects, mirror, bent)
    clear_weight = dr.select(
        reflects, shares / dr.maximum(chance, 1e-9), (1 - shares) * look.tint / dr.maximum(1 - chance, 1e-9)
    )
    # coat, metal and cloudy: the highlight or what lies under it
    coat_in, _ = om.dielectric_reflectance(dr.maximum(towards.z, 0), look.index)
    coat_in = dr.select(look.leaving, 0.0, coat_in)
    choose = _highlight_chance(look, coat_in)
    shines = pick < choose
    base_out = om.cosine_hemisphere(sample)
    enters = (look.kind == CLOUDY) & ~look.leaving & ~shines
    passes = look.is_sheet() & ~shines & (pick < choose + (1 - choose) * _passing_chance(look))
    base_out = dr.select(enters | passes, -base_out, base_out)
    out = dr.select(look.kind == CLEAR, clear_out, dr.select(shines, mirror, base_out))
    reflected = dr.select(look.kind == CLEAR, reflects, shines)

    matt, highlight, density = evaluate(look, towards, out)
    whole = matt + highlight
    astray = frosted & (reflects != (out.z > 0))  # a tilted micro surface sent it through the large one
    weight = dr.select((density > 0) & ~astray, whole / dr.maximum(density, 1e-20), 0.0)
    share = om.luminance(matt) / dr.maximum(om.luminance(whole), 1e-12)
    weight = dr.select(smooth, clear_weight, weight)
    let_in = dr.select(look.film > 0, 1 - shares, Array3f(1 - coat_in))
    weight = dr.select(enters, let_in * look.tint / dr.maximum(1 - choose, 1e-6), weight)
    density = dr.select(smooth | enters, 0.0, density)
    share = dr.select(smooth | frosted, dr.select(reflected, 0.0, 1.0), dr.select(enters, 1.0, share))
    return Scattered(out, weight, density, share, reflected)


def _passing_chance(look: Look) -> Float:
    """Probability that light which does not shine on a thin sheet is followed through it."""
    through, back = om.luminance(look.passes), om.luminance(look.colour)
    chance = dr.clip(through / dr.maximum(through + back, 1e-6), 0.05, 0.95)
    return dr.select(look.is_sheet(), chance, 0.0)


def _lacquer_chance(look: Look, cos_in: Float) -> Float:
    """Probability of following the highlight of a metal's lacquer rather than the metal's own."""
    clear, _ = om.dielectric_reflectance(cos_in, LACQUER)
    return dr.select(look.lacquer > 0, dr.clip(clear / (clear + (1 - clear) * 0.8), 0.1, 0.9), 0.0)


def _highlight_chance(look: Look, coat_in: Float) -> Float:
    """Probability of sampling the highlight rather than what lies under it."""
    under = (1 - coat_in) * dr.select(look.kind == COAT, om.luminance(look.colour), 1.0)
    chance = dr.clip(coat_in / dr.maximum(coat_in + under, 1e-6), 0.08, 0.95)
    chance = dr.select((look.index == 1) | look.leaving, 0.0, chance)
    return dr.select(look.kind == METAL, 1.0, chance)


def _evaluate_frosted(
    look: Look, alpha: Array2f, towards: Array3f, out: Array3f
) -> tuple[Array3f, Array3f, Float]:
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
    value = Array3f(density / (1 + om.smith_lambda(out, alpha)))
    share = mirrored_share(look, dr.maximum(dot_in, 0))
    of_chance = dr.select(
        reflects, share / dr.maximum(fresnel, 1e-6), (1 - share) / dr.maximum(1 - fresnel, 1e-6)
    )
    value = dr.select(look.film > 0, value * of_chance, value)
    value = dr.select(reflects, value, value * look.tint)
    valid &= (dr.abs(out.z) > 1e-6) & (density < 1e12)
    value, density = dr.select(valid, value, 0.0), dr.select(valid, density, 0.0)
    return dr.select(reflects, value, 0.0), dr.select(reflects, 0.0, value), density
