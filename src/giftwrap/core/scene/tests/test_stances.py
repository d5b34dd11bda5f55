"""How parts stand, so that what is done to a material lies on them as they were made."""

from __future__ import annotations

import hashlib
import io
from unittest import TestCase
from unittest.mock import patch

import numpy as np

from giftwrap.core.errors import PackError
from giftwrap.core.materials.optics import Optics, Stance
from giftwrap.core.materials.pictured import sheet_of
from giftwrap.core.mesh.mesh import Mesh
from giftwrap.core.model import Clear, Frame, Metal, Opaque, Pack, Shot
from giftwrap.core.model.pack import Copy
from giftwrap.core.model.worked import Film, Grain, Pictures
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.stage.starting import bench_set
from giftwrap.core.things.starting import starting_pack

BRUSHED = Metal(metal="aluminium", grain=Grain(pattern="brushed", brushed=0.5))


def pack_of(*, body: object = None, **closure: object) -> Pack:
    pack = starting_pack()
    lid = pack.form.closure.model_copy(update={"material": BRUSHED, **closure})
    changes: dict[str, object] = {"closure": lid}
    if body is not None:
        changes["body"] = pack.form.body.model_copy(update={"material": body})
    return pack.model_copy(update={"form": pack.form.model_copy(update=changes)})


def surfaces(pack: Pack) -> list[tuple[str, Mesh, Optics]]:
    frame = Frame(packs={"one": pack}, photo_set=bench_set(0.0), shot=Shot())
    scene = compile_scene(frame, {}, quick=True)
    return [
        (surface.part, mesh, surface.optics)
        for instance in scene.instances
        if instance.name != "sweep"
        for mesh, surface in zip(instance.meshes, instance.surfaces, strict=True)
    ]


def in_part(stance: Stance, mesh: Mesh) -> np.ndarray:
    rows = np.array(stance.to_part)
    return mesh.positions @ rows[:, :3].T + rows[:, 3]


class LimitTests(TestCase):
    def test_more_pictures_than_can_be_held_are_refused(self) -> None:
        """Each is counted once, whatever it is on; the pack that has most of them is named."""
        stream = io.BytesIO()
        np.save(stream, np.zeros((8, 8, 4), np.uint8))
        sha = hashlib.sha256(stream.getvalue()).hexdigest()
        shown = Opaque(grain=Grain(pattern=Pictures(colour=sha)))
        pack = pack_of(body=shown, material=shown)
        files = {sha: stream.getvalue()}
        size = sheet_of(Pictures(colour=sha), files).nbytes
        frame = Frame(packs={"one": pack}, photo_set=bench_set(0.0), shot=Shot())
        with patch("giftwrap.core.scene.compile.MOST_SHEETS", size):
            compile_scene(frame, files, quick=True)
        refused = self.assertRaisesRegex(PackError, "pictures of these materials.*“one”")
        with patch("giftwrap.core.scene.compile.MOST_SHEETS", size - 1), refused:
            compile_scene(frame, files, quick=True)


class StanceTests(TestCase):
    def closure(self, pack: Pack) -> tuple[np.ndarray, Stance]:
        (found,) = [(mesh, optics) for part, mesh, optics in surfaces(pack) if part == "closure"]
        assert found[1].detail is not None
        return in_part(found[1].detail.stance, found[0]), found[1].detail.stance

    def test_a_cap_stands_on_its_own_foot_about_its_own_axis(self) -> None:
        places, stance = self.closure(pack_of())
        self.assertAlmostEqual(float(places[:, 2].min()), 0.0, places=6)
        self.assertAlmostEqual(float(places[:, 0].min()), -float(places[:, 0].max()), places=3)
        reach = float(np.hypot(places[:, 0], places[:, 1]).max())
        self.assertAlmostEqual(stance.radius, reach, places=6)

    def test_wherever_it_is_put_its_grain_goes_along(self) -> None:
        """Lifted, leaning, laid beside: in its own frame it is where it was."""
        still, _ = self.closure(pack_of())
        for moved in ({"lift": 24.0}, {"lift": 30.0, "tilt": 35.0}, {"lift": 5.0, "beside": True}):
            there, stance = self.closure(pack_of(**moved))
            np.testing.assert_allclose(there, still, atol=1e-6, err_msg=str(moved))
            self.assertNotEqual(stance.to_part, Stance().to_part)

    def test_copies_stand_as_they_were_made(self) -> None:
        pack = pack_of()
        still, _ = self.closure(pack)
        pack = pack.model_copy(update={"copies": [Copy(of="closure", x=80, tilt=90)]})
        (copy,) = [(m, o) for part, m, o in surfaces(pack) if part == "closure-copy-1"]
        assert copy[1].detail is not None
        np.testing.assert_allclose(in_part(copy[1].detail.stance, copy[0]), still, atol=1e-6)

    def test_upside_down_the_foot_is_still_the_foot(self) -> None:
        pack = pack_of()
        form = pack.form.model_copy(update={"stands_on": "closure"})
        still, _ = self.closure(pack)
        there, _ = self.closure(pack.model_copy(update={"form": form}))
        np.testing.assert_allclose(there, still, atol=1e-6)


class SideTests(TestCase):
    """What is done to the outside of a wall is not done to its inside; frost is where it is said to be."""

    def body(self, material: object) -> list[Optics]:
        return [o for part, _, o in surfaces(pack_of(body=material)) if part == "body"]

    def test_a_film_lies_outside(self) -> None:
        outside, *others = self.body(Clear(film=Film()))
        self.assertIsNotNone(outside.detail)
        self.assertEqual([o.detail for o in others], [None] * len(others))

    def test_what_goes_through_is_seen_inside_too(self) -> None:
        """Marble is marble on both sides of its wall, and under what is in it; leather lies outside alone."""
        for grain, sides in (
            (Grain(pattern="marble", lies="through"), {True}),
            (Grain(pattern="leather"), {True, False}),
        ):
            found = self.body(Opaque(grain=grain))
            self.assertGreater(len(found), 1)
            self.assertEqual({o.detail is not None for o in found}, sides, grain.pattern)

    def test_frost_outside_inside_and_on_both(self) -> None:
        for where, frosted in (("both", (True, True)), ("outside", (True, False)), ("inside", (False, True))):
            outside, inside, *wet = self.body(Clear(frost=0.5, frosted=where))
            self.assertEqual((outside.alpha > 0, inside.alpha > 0), frosted, where)
            self.assertEqual([o.alpha for o in wet], [0.0] * len(wet), "wet frost is clear")

    def test_paint_has_no_details(self) -> None:
        self.assertEqual({o.detail for o in self.body(Opaque())}, {None})
