"""Mending: what is wrong in meshes is put right and counted, and what pages draw stays true to it."""

from __future__ import annotations

from unittest import TestCase

import numpy as np
import trimesh

from giftwrap.core.errors import ModelError
from giftwrap.core.mesh.topology import edges_of, volume_of
from giftwrap.core.received.bundle import Bundle
from giftwrap.core.received.found import FoundMaterial, FoundMesh, FoundModel
from giftwrap.core.received.kept import kept_model, packed
from giftwrap.core.received.mending import MOST_DRAWN, mended
from giftwrap.core.received.report import report_of, unit_guess, unit_words
from giftwrap.core.tests.models import label_sheet

PAINTED = (FoundMaterial("paper", picture=b"\x89PNG"),)


def mesh(solid: trimesh.Trimesh, name: str = "it", **more: object) -> FoundMesh:
    return FoundMesh(name, np.asarray(solid.vertices, dtype=float), np.asarray(solid.faces), **more)  # type: ignore[arg-type]


class MendedTests(TestCase):
    def test_parts_that_lie_on_each_other_are_copies_whatever_their_order(self) -> None:
        ball = trimesh.creation.icosphere(2, 10)
        shuffled = np.random.default_rng(2).permutation(len(ball.vertices))
        again = trimesh.Trimesh(ball.vertices[shuffled], np.argsort(shuffled)[ball.faces], process=False)
        near = ball.copy().apply_translation((0.05, 0, 0))
        model, counts = mended(FoundModel((mesh(ball), mesh(again), mesh(near))))
        self.assertEqual([body.copy_of for body in model.bodies], [None, 0, None])
        self.assertEqual(counts.copies, 1)

    def test_normals_that_were_right_stay_when_faces_are_turned(self) -> None:
        ball = trimesh.creation.icosphere(2, 10)
        straight = np.asarray(ball.vertices) / 10
        for normals in (straight, -straight):
            inverted = FoundMesh("it", np.asarray(ball.vertices), np.asarray(ball.faces)[:, ::-1], normals)
            facets = mended(FoundModel((inverted,)))[0].whole[0]
            assert facets.normals is not None
            np.testing.assert_allclose(facets.normals, facets.positions / 10, atol=1e-6)
            self.assertGreater(volume_of(facets.positions, facets.faces), 0)

    def test_coordinates_of_pictures_begin_in_the_first_tile(self) -> None:
        """Those that go beyond it repeat."""
        sheet = label_sheet()
        uvs = np.asarray(sheet.visual.uv)
        for times, change in ((1.0, 0.0), (1.0, 3.0), (2.5, 0.0), (2.5, -2.0)):
            moved = uvs * times + change
            model, counts = mended(FoundModel((mesh(sheet, uvs=moved, material=0),), PAINTED))
            with self.subTest(times=times, change=change):
                found = model.whole[0].uvs
                assert found is not None
                np.testing.assert_allclose(np.sort(found, axis=0), np.sort(uvs * times, axis=0), atol=1e-6)
                self.assertEqual((model.meshes[0].repeats, counts.repeating), (times > 1, int(times > 1)))
                assert model.meshes[0].sheet is not None
                self.assertAlmostEqual(model.meshes[0].sheet[1], 65 / times, delta=0.1)

    def test_coordinates_without_a_picture_are_dropped(self) -> None:
        sheet = label_sheet()
        model, _ = mended(FoundModel((mesh(sheet, uvs=np.asarray(sheet.visual.uv)),)))
        self.assertIsNone(model.whole[0].uvs)
        self.assertIsNone(model.meshes[0].sheet)

    def test_what_is_drawn_is_closed_and_holds_as_much(self) -> None:
        for solid in (
            trimesh.creation.torus(40, 10, major_sections=700, minor_sections=300),
            trimesh.creation.icosphere(7, 50),
        ):
            model, _ = mended(FoundModel((mesh(solid),)))
            few = model.few[0]
            with self.subTest(len(solid.faces)):
                self.assertLessEqual(len(few.faces), MOST_DRAWN)
                self.assertEqual(len(edges_of(few.points[few.faces]).rims), 0)
                self.assertAlmostEqual(volume_of(few.positions, few.faces) / solid.volume, 1, delta=0.002)

    def test_small_parts_of_a_large_model_keep_their_shape(self) -> None:
        large, small = trimesh.creation.icosphere(7, 50), trimesh.creation.icosphere(2, 1)
        small.apply_translation((80, 0, 0))
        model, _ = mended(FoundModel((mesh(large), mesh(small))))
        self.assertEqual([len(facets.faces) for facets in model.few[1:]], [320])

    def test_nothing_left_is_refused(self) -> None:
        flat = trimesh.Trimesh([[0, 0, 0], [1, 0, 0], [2, 0, 0]], [[0, 1, 2]], process=False)
        with self.assertRaisesRegex(ModelError, "only lines and points"):
            mended(FoundModel((mesh(flat),)))

    def test_too_many_pieces_are_refused(self) -> None:
        grain = trimesh.creation.box((1, 1, 1))
        grains = tuple(mesh(grain.copy().apply_translation((3 * i, 0, 0)), f"{i}") for i in range(2001))
        with self.assertRaisesRegex(ModelError, "in 2001 pieces; 2000 is the most"):
            mended(FoundModel(grains))


class ReportTests(TestCase):
    def test_every_count_has_its_sentence(self) -> None:
        ball = trimesh.creation.icosphere(2, 10)
        model, counts = mended(FoundModel((mesh(ball),)))
        for field in vars(counts):
            setattr(counts, field, 2)
        said = report_of(Bundle("a.obj", "obj", b"", {}), FoundModel(()), model, counts, guess=25.4)
        text = " ".join(said)
        for words in (
            "Its unit, inch, is a guess",
            "lay exactly on another",
            "faced inwards",
            "against their neighbours",
            "without area",
        ):
            self.assertIn(words, text)
        for words in ("twisted band", "open along 2 rings", "stayed together", "pictures that repeat"):
            self.assertIn(words, text)
        self.assertTrue(all(note.endswith(".") for note in said))

    def test_units_have_names(self) -> None:
        self.assertEqual([unit_words(u) for u in (1.0, 25.4, 1000.0, 7.0)], ["mm", "inch", "m", "7 mm"])
        self.assertEqual(unit_guess(1e-6, None), (1.0, True))
        self.assertEqual(unit_guess(1e-6, 1000.0), (1000.0, False))


class KeptTests(TestCase):
    def test_what_is_no_model_is_said(self) -> None:
        model, _ = mended(FoundModel((mesh(trimesh.creation.box()),)))
        data = packed(model)
        for number, broken in enumerate((b"", b"PK\x03\x04", data[: len(data) // 2])):
            with self.subTest(number), self.assertRaisesRegex(ModelError, "send the model again"):
                kept_model(f"broken {number}", broken)
