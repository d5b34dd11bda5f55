"""What surfaces do beyond their kind, against formulas, standards and the renderer library's own."""

from __future__ import annotations

from functools import cache
from unittest import TestCase

import drjit as dr
import numpy as np
from drjit.llvm.ad import Array2f, Array3f, Array4f, Bool, Float, UInt32

from giftwrap.core.materials import films
from giftwrap.core.materials.films import film_mirrors
from giftwrap.core.materials.optics import METALS, Optics, Stance, gloss_width, material_optics, thin_sheet
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.model import Clear, Metal, Opaque
from giftwrap.core.model.material import Material
from giftwrap.core.model.worked import Fade, Film, Grain
from giftwrap.core.render import optics_math as om
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.geometry import Triangle
from giftwrap.core.render.scattering import Look, evaluate, scatter
from giftwrap.core.render.tables import Appearance
from giftwrap.core.render.texels import Texel
from giftwrap.core.scene.scene import Instance, Surface
from giftwrap.core.tests.scenes import (
    ahead,
    box,
    cylinder,
    film_of,
    lamp,
    quad,
    scene,
    sphere,
    surface,
)

LANES = 200_000
PEARL = Film(thickness=380, refractive_index=2.4)
WORKED: dict[str, Material] = {
    "brushed": Metal(metal="silver", gloss=0.5, grain=Grain(pattern="brushed", brushed=0.7)),
    "lacquered": Metal(metal="silver", gloss=0.4, lacquer=0.9),
    "fuzzy": Opaque(colour="#ffffff", gloss=0.3, sheen=0.8),
    "dead matt and fuzzy": Opaque(colour="#808080", gloss=0.0, sheen=1.0),
    "pearl": Opaque(colour="#ffffff", gloss=0.6, film=PEARL),
    "lustre": Metal(metal="chrome", gloss=0.5, film=PEARL),
    "coated frost": Clear(frost=0.4, film=PEARL),
    "sheet": Opaque(colour="#ffffff", gloss=0.2, passes=0.5),
    "matt sheet": Opaque(colour="#d0c0a0", gloss=0.0, passes=0.3),
    "tinted frost": Clear(frost=0.5, fade=Fade(begins=-2, whole=-1, colour="#c08040", cover=0, gloss=0.5)),
}


@cache
def all_worked() -> Appearance:
    """Every material of `WORKED` as a surface, so that one kernel serves them all."""
    light_engine()
    mesh = quad((0, 0, 0), (1, 0, 0), (0, 0, 1))
    surfaces = tuple(Surface(name, material_optics(material)) for name, material in WORKED.items())
    return Appearance([Instance("all", (mesh,) * len(surfaces), surfaces)], [])


def look_of(
    material: Material, lanes: int = LANES, *, place: tuple[float, float, float] = (0, -20, 5)
) -> Look:
    """A material as it is seen at a place of a part that is wrapped around the upright axis."""
    light_engine()
    known = [name for name, own in WORKED.items() if own is material]
    if known:
        appearance, number = all_worked(), list(WORKED).index(known[0])
    else:
        mesh = quad((0, 0, 0), (1, 0, 0), (0, 0, 1))
        only = Surface("one", material_optics(material))
        appearance, number = Appearance([Instance("one", (mesh,), (only,))], []), 0
    wide = dr.zeros(Float, lanes)
    spot, out = Array3f(*place) + wide, Array3f(0, -1, 0) + wide
    pose = [Array4f(*(1.0 if i == j else 0.0 for j in range(4))) for i in range(3)]
    zero, active = dr.zeros(UInt32, lanes), dr.full(Bool, True, lanes)
    at = Triangle(spot, out, out, dr.zeros(Array2f, lanes), spot, spot, zero, spot, out, pose)
    row = appearance.row(dr.opaque(UInt32, number, lanes), active)
    detailed = appearance.details.at(row.detail, at, Float(0.5) + wide, active)
    texel = Texel(zero, Array3f(0) + wide, Float(1) + wide, wide, wide, dr.zeros(Array2f, lanes))
    look, _, _ = appearance.look(row, texel, detailed, Float(0.5) + wide, active, active=active)
    return look


def towards(degrees: float, azimuth: float = 20.0) -> Array3f:
    tilt, turn = np.radians([degrees, azimuth])
    way = (np.sin(tilt) * np.cos(turn), np.sin(tilt) * np.sin(turn), np.cos(tilt))
    return Array3f(*(dr.opaque(Float, float(v)) for v in way))


def samples(seed: int, lanes: int = LANES) -> tuple[Float, Array2f]:
    rng = np.random.default_rng(seed)
    pick, x, y = (Float(rng.random(lanes, dtype=np.float32)) for _ in range(3))
    return pick, Array2f(x, y)


def over_sphere(seed: int) -> Array3f:
    return om.uniform_sphere(samples(seed)[1])


class LawTests(TestCase):
    """Energy, reciprocity, and that sampling and evaluating are of one mind, for every new look."""

    def test_white_furnace(self) -> None:
        """None returns more than it is sent, and what takes nothing up returns nearly all: rough surfaces
        lose what would scatter between their facets twice."""
        lossless = {"fuzzy": 0.9, "pearl": 0.84, "coated frost": 0.84, "sheet": 0.84}
        for name, material in WORKED.items():
            for tilt in (0, 40, 75):
                pick, sample = samples(1)
                went = scatter(look_of(material), towards(tilt), Float(0.3), pick, sample)
                returned = np.nanmean(went.weight.numpy(), axis=1)
                self.assertLess(returned.max(), 1.01, (name, tilt))
                self.assertGreater(returned.max(), lossless.get(name, 0.2), (name, tilt))

    def test_sampled_and_evaluated_alike(self) -> None:
        """∫ of what is evaluated, by even chance over the sphere, is the mean weight of what is sampled."""
        for name, material in WORKED.items():
            look, way = look_of(material), towards(50)
            pick, sample = samples(2)
            sampled = scatter(look, way, Float(0.3), pick, sample).weight.numpy().mean(axis=1)
            matt, highlight, density = evaluate(look, way, over_sphere(3))
            evaluated = (matt + highlight).numpy().mean(axis=1) * 4 * np.pi
            np.testing.assert_allclose(sampled, evaluated, rtol=0.04, atol=0.004, err_msg=name)
            self.assertAlmostEqual(float(density.numpy().mean()) * 4 * np.pi, 1.0, delta=0.08, msg=name)

    def test_reciprocal(self) -> None:
        """f(a, b) = f(b, a), where light stays on its side of a boundary."""
        there = om.uniform_sphere(samples(4)[1])
        there = dr.normalize(Array3f(there.x, there.y, dr.maximum(dr.abs(there.z), 0.05)))
        for name, material in WORKED.items():
            look = look_of(material)
            here = towards(35) + dr.zeros(Array3f, LANES)
            ways = [(here, there), (there, here)]
            if look.is_sheet().numpy().any():
                ways = [(here, -there), (there, -here)]
            first, second = ((sum(evaluate(look, a, b)[:2]) / dr.abs(b.z)).numpy() for a, b in ways)
            np.testing.assert_allclose(first, second, rtol=2e-3, atol=1e-5, err_msg=name)


class BrushingTests(TestCase):
    def test_against_the_renderer_librarys_own(self) -> None:
        """Its rough conductor with a width along and one across, at directions by chance."""
        engine = light_engine()
        material = Metal(metal="gold", gloss=0.45, grain=Grain(pattern="brushed", brushed=0.6))
        look = look_of(material, 1)
        along, across = (float(v) for v in look.alpha.numpy().ravel())
        self.assertAlmostEqual(along / across, 1 - 0.985 * 0.6, places=5)
        rng = np.random.default_rng(5)
        n, k = (list(map(float, v)) for v in METALS["gold"])
        theirs = engine.load_dict(
            {
                "type": "roughconductor",
                "distribution": "ggx",
                "alpha_u": along,
                "alpha_v": across,
                "eta": {"type": "rgb", "value": n},
                "k": {"type": "rgb", "value": k},
            }
        )
        for _ in range(20):
            a, b = (v / np.linalg.norm(v) for v in np.abs(rng.normal(size=(2, 3))) * [[1, 1, 1], [-1, 1, 1]])
            met = dr.zeros(engine.SurfaceInteraction3f)
            met.wi = engine.Vector3f(*map(float, a))
            expected = np.array(
                theirs.eval(engine.BSDFContext(), met, engine.Vector3f(*map(float, b)))
            ).ravel()
            _, found, _ = evaluate(look, Array3f(*map(float, a)), Array3f(*map(float, b)))
            np.testing.assert_allclose(found.numpy().ravel(), expected, rtol=2e-3, atol=1e-6)

    def test_along_the_girth_or_up_the_wall(self) -> None:
        """The streak of light of a brushed cylinder lies across its grain."""
        wide = {}
        for turn in (0, 90):
            metal = Metal(
                metal="aluminium", gloss=0.5, grain=Grain(pattern="brushed", brushed=0.8, turn=turn)
            )
            optics = material_optics(metal, stance=Stance(radius=20))
            lit = _picture(cylinder(20, 40), optics, 60, lamp_at=(0, -400, 20))
            tall, across = lit.sum(axis=1), lit.sum(axis=0)
            wide[turn] = _spread(tall) / _spread(across)
        self.assertGreater(wide[0], 1.5 * wide[90])


class FilmTests(TestCase):
    def test_a_quarter_wave(self) -> None:
        """((n₀ nₛ − n₁²) / (n₀ nₛ + n₁²))² where a film is a quarter of a wave (Hecht, Optics, 9.7)."""
        for film, below in ((1.38, 1.52), (2.3, 1.52), (1.7, 1.5)):
            thickness = 550 / (4 * film)
            spectrum = films._spectra(np.array([[1.0]]), thickness, film, np.full(86, below + 0j), 1.0)
            found = float(np.interp(550, films.WAVELENGTHS, spectrum[0]))
            self.assertAlmostEqual(found, ((below - film**2) / (below + film**2)) ** 2, delta=2e-5)

    def test_no_film_at_all(self) -> None:
        """A film of the index of what it lies on is not there: Fresnel's reflectance remains."""
        cosines = np.linspace(0.05, 1, 12)
        found = film_mirrors(cosines, thickness=400, film=1.52, n=np.full(3, 1.52), k=np.zeros(3))
        expected, _ = om.dielectric_reflectance(Float(cosines.astype(np.float32)), Float(1.52))
        np.testing.assert_allclose(found, np.repeat(expected.numpy()[:, None], 3, axis=1), rtol=2e-3)

    def test_the_eyes_curves_are_those_of_the_renderer_library(self) -> None:
        """Colours of films by the fit against those by the tables of CIE 1931 that it ships."""
        engine = light_engine()
        tables = np.array(engine.cie1931_xyz(Float(films.WAVELENGTHS.astype(np.float32)))).T
        tables = tables if tables.shape[1] == 3 else tables.T
        to_rgb = np.linalg.inv(
            [[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]]
        )  # IEC 61966-2-1
        weights = tables @ to_rgb.T
        weights /= weights.sum(axis=0)
        for thickness in (120, 250, 380, 520):
            spectrum = films._spectra(np.array([[0.9]]), thickness, 2.3, np.full(86, 1.5 + 0j), 1.0)
            colour = film_mirrors(
                np.array([0.9]), thickness=thickness, film=2.3, n=np.full(3, 1.5), k=np.zeros(3)
            )
            np.testing.assert_allclose(colour[0], (spectrum @ weights)[0], atol=0.012)

    def test_the_kernels_table(self) -> None:
        for material, n, k in (
            (Opaque(film=PEARL), (1.49,) * 3, (0.0,) * 3),
            (Metal(metal="chrome", film=PEARL), *METALS["chrome"]),
            (Clear(film=PEARL), (1.52,) * 3, (0.0,) * 3),
        ):
            look = look_of(material, 1)
            for cosine in (0.1, 0.45, 0.8, 1.0):
                found = look.films.mirrored(look.film, Float(cosine), Bool(True)).numpy().ravel()
                cosines = np.array([cosine])
                expected = film_mirrors(cosines, thickness=380, film=2.4, n=np.array(n), k=np.array(k))
                np.testing.assert_allclose(found, expected[0], atol=0.012)

    def test_coated_glass_takes_nothing_up(self) -> None:
        """A ball of coated glass in even light cannot be seen."""
        ball = surface("ball", sphere(40), material_optics(Clear(film=PEARL)))
        film = film_of(scene((ball,), (), 1.0), ahead(60), size=16, samples=256)
        light = film.light.sum(axis=0).reshape(3, -1) / film.samples  # what shows the background, too
        np.testing.assert_allclose(light.mean(axis=1), 1.0, atol=0.01)


class SheetTests(TestCase):
    def test_halves_by_kubelka_and_munk(self) -> None:
        """Each face of a sheet is a layer of half its thickness: R = sinh(b S d) / (a sinh + b cosh), T = b /
        (a sinh + b cosh), a = 1 + K/S, b = √(a² − 1) (Kubelka 1948)."""
        for scatter_, absorb, thick in ((30.0, 2.0, 0.1), (12.0, 0.5, 0.08), (50.0, 6.0, 0.05)):

            def layer(d: float, s: float = scatter_, k: float = absorb) -> tuple[float, float]:
                a = 1 + k / s
                b = np.sqrt(a * a - 1)
                below = a * np.sinh(b * s * d) + b * np.cosh(b * s * d)
                return float(np.sinh(b * s * d) / below), float(b / below)

            whole, through = layer(thick)
            total = whole + through
            back, passes = thin_sheet((total,) * 3, through / total)
            np.testing.assert_allclose((back[0], passes[0]), layer(thick / 2), rtol=1e-6)

    def test_paper_against_the_light(self) -> None:
        """Under half a sky of lamps a sheet returns and lets through as much as it says, all at once all."""
        paper = material_optics(Opaque(colour="#ffffff", gloss=0.0, passes=0.4))
        sheet = surface("sheet", box((-2000, -0.05, -2000), (2000, 0.05, 2000)), paper)
        for side, expected in ((1, 0.4), (-1, 0.6)):
            sky = lamp((0, side * 600, 0), side=60_000, radiance=1, hidden_from_camera=True)
            light = film_of(scene((sheet,), (sky,), 0.0), ahead(40), size=8, samples=2048).mean_light()
            self.assertAlmostEqual(float(light.mean()), expected, delta=0.012)
        light = film_of(scene((sheet,), (), 1.0), ahead(40), size=8, samples=512).mean_light()
        self.assertAlmostEqual(float(light.mean()), 1.0, delta=0.01)


class FadedGlossTests(TestCase):
    def test_gloss_sets_in_on_glass(self) -> None:
        frosting = Clear(fade=Fade(begins=0, whole=1, cover=0, gloss=0.5))
        look = look_of(frosting, 1, place=(0, -20, 5))
        self.assertAlmostEqual(float(look.alpha.x.numpy()[0]), 0.03 + 0.5 * (0.55 - 0.03), places=5)
        self.assertEqual(float(look_of(frosting, 1, place=(0, -20, -5)).alpha.x.numpy()[0]), 0.0)
        self.assertAlmostEqual(
            float(
                look_of(
                    Opaque(gloss=0.2, fade=Fade(begins=0, whole=1, cover=1, gloss=0.9)), 1
                ).alpha.x.numpy()[0]
            ),
            gloss_width(0.9),
            places=5,
        )


def _picture(mesh: Mesh, optics: Optics, width: float, *, lamp_at: tuple[float, float, float]) -> np.ndarray:
    high = float(mesh.positions[:, 2].max())
    stage = scene(
        (surface("one", mesh, optics),), (lamp(lamp_at, target=(0, 0, high / 2), side=30, radiance=50),), 0.0
    )
    return (
        film_of(stage, ahead(width, height=high / 2, aim=high / 2), size=96, samples=64)
        .mean_light()
        .mean(axis=2)
    )


def _spread(values: np.ndarray) -> float:
    places = np.arange(len(values))
    middle = (places * values).sum() / values.sum()
    return float(np.sqrt((((places - middle) ** 2) * values).sum() / values.sum()))
