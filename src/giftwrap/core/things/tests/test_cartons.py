"""Cartons as packs: whatever takes a pack takes them."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giftwrap.core.carton.styles import STYLES
from giftwrap.core.errors import PackError
from giftwrap.core.grade.display import linear_colour
from giftwrap.core.model import Carton, Clear, Frame, Linked, Opaque, Pack, Palette, Vessel, dressed
from giftwrap.core.model.carton import Board
from giftwrap.core.render.job import take
from giftwrap.core.render.planning import Limits
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.tests.samples import (
    even_light,
    picture_job,
    placed,
    png,
    portrait,
    square_of,
    three_lights,
)
from giftwrap.core.things.carton import carton_facts, shape_carton
from giftwrap.core.things.making import thing_of
from giftwrap.core.things.silhouette import silhouette_svg
from giftwrap.core.things.starting import starting_points

SOAP = Carton(style="reverse-tuck", length=82, width=28, depth=58, board=Board(caliper=0.4))


class CartonPackTests(TestCase):
    def test_it_stands_on_the_table_over_its_middle(self) -> None:
        for style in ("reverse-tuck", "tray", "lid-and-base", "slotted-case", "sleeve"):
            with self.subTest(style):
                thing = thing_of(Pack(form=SOAP.model_copy(update={"style": style})), {})
                bounds = thing.bounds
                self.assertAlmostEqual(bounds.low[2], 0.0, places=6)
                for axis in (0, 1):
                    self.assertAlmostEqual(bounds.low[axis], -bounds.high[axis], delta=1.1)

    def test_weight_is_area_times_caliper_times_density(self) -> None:
        facts = carton_facts(shape_carton(Pack(form=SOAP)))
        self.assertAlmostEqual(facts.board_g, facts.board_area * 0.4 / 1000 * 0.75)
        self.assertEqual(facts.inside, (82, 28, 58))

    def test_what_does_not_belong_together_is_refused(self) -> None:
        placement, _ = placed(png(), width=20)
        strange = Pack(form=SOAP.model_copy(update={"prints": {"lid": [placement]}}))
        with self.assertRaisesRegex(PackError, "has no lid to print on: choose one of carton") as caught:
            thing_of(strange, {})
        self.assertEqual(caught.exception.place, "form.prints.lid")
        with self.assertRaisesRegex(PackError, "no bottle"):
            _ = Pack(form=SOAP).vessel

    def test_board_may_be_the_palettes(self) -> None:
        linked = SOAP.model_copy(update={"board": Board(outside=Linked(entry="House cream"))})
        palette = Palette(entries={"House cream": Opaque(colour="#efe2c4")})
        pack = dressed("soap", Pack(form=linked), palette)
        self.assertEqual(pack.carton.board.outside.colour, "#efe2c4")
        with self.assertRaises(PackError):
            dressed("soap", Pack(form=linked), Palette(entries={"House cream": Clear()}))

    def test_every_style_has_a_pack_to_start_from_and_a_drawing(self) -> None:
        cartons = [point for point in starting_points() if isinstance(point.pack.form, Carton)]
        self.assertEqual(len(cartons), 19)
        self.assertEqual({point.pack.carton.style for point in cartons}, set(STYLES))
        for point in cartons:
            self.assertIn("<path", silhouette_svg(point.pack))

    def test_a_document_says_what_kind_of_form_it_has(self) -> None:
        data = Pack(form=SOAP).model_dump(mode="json")
        self.assertIsInstance(Pack.model_validate(data).form, Carton)
        self.assertIsInstance(starting_points()[0].pack.form, Vessel)


class PrintTests(TestCase):
    """Artwork on the blank comes out on the panel it lies on, the right way round."""

    @classmethod
    def setUpClass(cls) -> None:
        blank = shape_carton(Pack(form=SOAP)).shape.blanks["carton"]
        left, foot, right, top = blank.by_name["front"].outline.bounds
        x, y = blank.way_to(0, 0)
        across, up = right - left, top - foot
        marks = (
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{across}mm" height="{up}mm" '
            f'viewBox="0 0 {across} {up}"><rect width="{across / 2}" height="{up / 2}" fill="#c00"/>'
            f'<rect x="{across / 2}" y="{up / 2}" width="{across / 2}" height="{up / 2}" fill="#00c"/></svg>'
        )
        placement, cls.files = placed(marks.encode(), width=across, x=left + x, y=foot + y)
        cls.pack = Pack(form=SOAP.model_copy(update={"prints": {"carton": [placement]}}))
        extent = thing_of(cls.pack, {}).extent
        shot = portrait(extent).model_copy(update={"purposes": [square_of(120)]})
        job = picture_job(cls.pack, even_light(), shot, cls.files)
        cls.light = take(job, Limits(8)).mean_light()

    def test_corners_of_the_front(self) -> None:
        red = self.light[..., 0] > 3 * self.light[..., 2]
        blue = self.light[..., 2] > 3 * self.light[..., 0]
        (y_red, x_red), (y_blue, x_blue) = (np.argwhere(mask).mean(axis=0) for mask in (red, blue))
        self.assertGreater(min(red.sum(), blue.sum()), 200)
        self.assertLess(x_red, x_blue - 10)  # seen from the front red is at the upper left
        self.assertLess(y_red, y_blue - 10)

    def test_the_scene_knows_its_three_kinds_of_board(self) -> None:
        frame = Frame(packs={"soap": self.pack}, photo_set=three_lights(), shot=portrait())
        looks = compile_scene(frame, self.files, quick=True).instances[1].surfaces
        self.assertEqual(len(looks), 3)
        self.assertIsNotNone(looks[0].optics.texels)


class OwnFaceTests(TestCase):
    """Panels whose outside is made of something else."""

    def with_faces(self, **faces: object) -> Pack:
        placement, _ = placed(png(), width=20)
        more: dict[str, object] = {"faces": faces, "prints": {"carton": [placement]}}
        return Pack(form=SOAP.model_copy(update=more))

    def area(self, pack: Pack) -> dict[str, float]:
        found = {}
        for piece in thing_of(pack, {}).pieces:
            corners = piece.mesh.positions[piece.mesh.faces].astype(float)
            sides = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
            found[piece.name] = float(np.linalg.norm(sides, axis=1).sum() / 2)
        return found

    def test_what_is_theirs_is_no_longer_the_boards(self) -> None:
        """The front's own piece is its panel, with half of the creases around it."""
        black = Opaque(colour="#101010")
        before, after = self.area(self.with_faces()), self.area(self.with_faces(front=black))
        self.assertAlmostEqual(after["carton"] + after["carton, front"], before["carton"], places=2)
        self.assertAlmostEqual(after["carton, front"], 82 * 58, delta=0.05 * 82 * 58)
        thing = thing_of(self.with_faces(front=black), {})
        (own,) = (piece for piece in thing.pieces if piece.name == "carton, front")
        self.assertEqual((own.part, thing.panels[own.panel].made_of), ("carton", black))
        self.assertEqual(thing.panels[own.panel].placements, thing.panels[0].placements)

    def test_it_is_seen(self) -> None:
        """From the front, under even light, the front is as dark as its own stock."""
        lights = []
        for faces in ({}, {"front": Opaque(colour="#404040", gloss=0)}):
            pack = Pack(form=SOAP.model_copy(update={"faces": faces}))
            shot = portrait(thing_of(pack, {}).extent).model_copy(update={"purposes": [square_of(64)]})
            light = take(picture_job(pack, even_light(), shot, {}), Limits(8)).mean_light()
            lights.append(float(light[28:36, 28:36].mean()))
        self.assertAlmostEqual(lights[1], linear_colour("#404040")[0], delta=0.01)
        self.assertGreater(lights[0], 0.7)

    def test_of_several_blanks_and_none(self) -> None:
        box = Carton(style="lid-and-base", length=80, width=60, depth=30)
        top = shape_carton(Pack(form=box)).shape.blanks["lid"].panels[0].name
        own = box.model_copy(update={"faces": {f"lid {top}": Opaque(colour="#101010")}})
        names = [piece.name for piece in shape_carton(Pack(form=own)).pieces]
        self.assertIn(f"lid, {top}", names)
        wrong = box.model_copy(update={"faces": {"roof": Opaque()}})
        with self.assertRaisesRegex(PackError, "no roof on this carton") as caught:
            shape_carton(Pack(form=wrong))
        self.assertEqual(caught.exception.place, "form.faces.roof")

    def test_linked(self) -> None:
        palette = Palette(entries={"Band": Opaque(colour="#336699")})
        pack = dressed("soap", self.with_faces(front=Linked(entry="Band")), palette)
        stocks = {panel.made_of.colour for panel in thing_of(pack, {}).panels}
        self.assertIn("#336699", stocks)
