"""What the hand changes is data: nothing is compiled, and what has not changed is not loaded again."""

from __future__ import annotations

from unittest import TestCase

import drjit as dr
import numpy as np
from drjit.llvm.ad import Float, UInt32

from giftwrap.core.materials.optics import OpticsKind, boundary_optics, cloud_of, medium_of, surface_optics
from giftwrap.core.model import (
    Camera,
    Chosen,
    Clear,
    Cloudy,
    Metal,
    Opaque,
    Pack,
    PhotoSet,
    Shot,
    SkySurround,
    Softbox,
    StudioSurround,
    SurroundBehind,
    WrapPanel,
)
from giftwrap.core.render.engine import light_engine
from giftwrap.core.render.job import PictureJob, scene_renderer
from giftwrap.core.render.memory import ALIGNMENT, aligned
from giftwrap.core.render.proof import proof_pass
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.tests.samples import formed, frame_of, three_lights
from giftwrap.core.things.starting import starting_pack


def job(pack: Pack | None = None, photo_set: PhotoSet | None = None, shot: Shot | None = None) -> PictureJob:
    return PictureJob.of(frame_of(pack or starting_pack(), photo_set, shot), 48, 60, print_ppi=60)


def with_part(pack: Pack, name: str, **changes: object) -> Pack:
    return formed(pack, **{name: getattr(pack.form, name).model_copy(update=changes)})


class SteadyKernelTests(TestCase):
    def compiled_by(self, one: PictureJob, name: str) -> int:
        with dr.scoped_set_flag(dr.JitFlag.KernelHistory, True):
            dr.kernel_history_clear()
            proof_pass(one, name, 0)
            history = dr.kernel_history()
        return sum(k["type"] == dr.KernelType.JIT and not k["cache_hit"] for k in history)

    def changes(self, step: float) -> dict[str, PictureJob]:
        """Everything a hand can change, by an amount."""
        pack, photo_set = starting_pack(), three_lights()
        back = WrapPanel(name="Back", from_base=30, width=40 + step, height=60, centre_angle=180)
        low = Softbox(name="Low", width=300, height=200, azimuth=20, elevation=step, distance=700, power_w=2)
        lights = [*photo_set.lights[:2], low]
        flat = Camera(projection="orthographic", orthographic_width=300 + step)
        blue = f"#2255{int(128 + step):02x}"
        return {
            "camera": job(shot=Shot(camera=Camera(lens_mm=50 + step, distance=700, azimuth=33))),
            "orthographic camera": job(shot=Shot(camera=flat)),
            "colour": job(with_part(pack, "closure", material=Opaque(colour=blue, gloss=0.9))),
            "metal": job(with_part(pack, "closure", material=Metal(metal="gold", tint=blue))),
            "cream": job(with_part(pack, "contents", material=Cloudy(colour=blue))),
            "frost": job(with_part(pack, "body", material=Clear(frost=0.4, colour=blue))),
            "fill": job(with_part(pack, "contents", fill_height=100.0 + step)),
            "lights": job(photo_set=photo_set.model_copy(update={"lights": lights})),
            "one light": job(photo_set=photo_set.model_copy(update={"lights": lights[2:]})),
            "sky": job(photo_set=photo_set.model_copy(update={"surround": SkySurround(hour=10 + step)})),
            "light cards": job(photo_set=photo_set.model_copy(update={"surround": StudioSurround()})),
            "another surround behind": job(
                photo_set=photo_set.model_copy(update={"behind": SurroundBehind(other=StudioSurround())})
            ),
            "part": job(pack.model_copy(update={"panels": [*pack.panels, back]})),
        }

    def test_changes_compile_nothing(self) -> None:
        """Once two pictures and a cloudy one were seen, whose light is gathered before. Memory in between
        moves what the next one's arrays come to lie on."""
        light_engine()
        seen = self.changes(0.5)
        for one in (job(), seen["colour"], seen["cream"]):
            proof_pass(one, "first", 0)
        held: list[bytearray] = []
        for step in range(1, 4):
            compiled = {name: self.compiled_by(one, name) for name, one in self.changes(step).items()}
            held += [bytearray(1000 * step + 24 * n + 8) for n in range(7)]
            self.assertEqual({name: n for name, n in compiled.items() if n}, {})

    def test_arrays_lie_alike_wherever_numpy_put_them(self) -> None:
        room = np.arange(4000, dtype=np.float32)
        for first in range(1, 20):
            values = room[first : first + 37 * first]
            for kind in (Float, UInt32):
                array = aligned(kind, values).numpy()  # no copy
                np.testing.assert_array_equal(array, values)
                self.assertEqual(array.__array_interface__["data"][0] % ALIGNMENT, 0)


class LoadingTests(TestCase):
    def test_geometry_stays_loaded_while_only_looks_change(self) -> None:
        pack = starting_pack()
        first = scene_renderer(job(pack))
        painted = scene_renderer(job(with_part(pack, "closure", material=Metal(metal="copper"))))
        self.assertIs(painted._geometry, first._geometry)
        poured = scene_renderer(job(with_part(pack, "contents", fill_height=90.0)))
        self.assertIsNot(poured._geometry, first._geometry)

    def test_lamps_of_one_name_are_told_apart(self) -> None:
        photo_set = three_lights()
        twins = [light.model_copy(update={"name": "surround"}) for light in photo_set.lights]
        scene = compile_scene(frame_of(starting_pack(), photo_set.model_copy(update={"lights": twins})), {})
        self.assertEqual([lamp.name for lamp in scene.lamps], ["surround 2", "surround 3", "surround 4"])

    def test_a_light_that_does_not_touch_labels(self) -> None:
        photo_set = three_lights()
        lights = [
            photo_set.lights[0].model_copy(update={"untouched": [Chosen(part="labels")]}),
            *photo_set.lights[1:],
        ]
        scene = compile_scene(frame_of(starting_pack(), photo_set.model_copy(update={"lights": lights})), {})
        surfaces = [s for instance in scene.instances for s in instance.surfaces]
        shielded = {s.part for s in surfaces if "Key" in s.untouched_by}
        self.assertEqual(shielded, {"label-1"})


class OpticsTests(TestCase):
    """The one place where materials become optics."""

    def test_clear_materials(self) -> None:
        glass = medium_of(Clear())
        self.assertEqual((glass.absorption, glass.mean_free_path), ((0, 0, 0), 0))
        self.assertEqual(boundary_optics(glass).alpha, 0)
        ground = boundary_optics(glass, frost=1.0).alpha
        self.assertGreater(ground, boundary_optics(glass, frost=0.2).alpha)

    def test_gloss_narrows_the_highlight_and_matt_has_no_coat(self) -> None:
        dull, shiny = (surface_optics(Opaque(gloss=g)) for g in (0.2, 0.9))
        self.assertGreater(dull.alpha, shiny.alpha)
        self.assertEqual(surface_optics(Opaque(gloss=0.0)).coat_index, 1.0)

    def test_a_coat_in_liquid_is_seen_against_the_liquid(self) -> None:
        drink = medium_of(Clear(refractive_index=1.35))
        wet = surface_optics(Opaque(gloss=0.5), front=drink)
        self.assertAlmostEqual(wet.coat_index, 1.49 / 1.35)
        self.assertEqual((wet.front, wet.back), (drink, drink))

    def test_metals_and_clouds(self) -> None:
        gold = surface_optics(Metal(metal="gold", tint="#ff0000"))
        self.assertEqual((gold.kind, gold.colour), (OpticsKind.METAL, (1, 0, 0)))
        cream = cloud_of(Cloudy(colour="#804020", wander=2.0))
        self.assertEqual(cream.mean_free_path, 2.0)
        self.assertGreater(cream.albedo[0], cream.albedo[1])
        self.assertGreater(cream.albedo[1], cream.albedo[2])
