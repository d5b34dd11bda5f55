"""Received models as packs: whatever takes a pack takes them."""

from __future__ import annotations

import hashlib
import io
from functools import cache
from unittest import TestCase

import numpy as np
from PIL import Image

from giftwrap.core.errors import PackError
from giftwrap.core.model import (
    Addition,
    Clear,
    Cloudy,
    Copy,
    Frame,
    Opaque,
    Pack,
    Palette,
    PartState,
    PickedPanel,
    Placement,
    WrapPanel,
    dressed,
)
from giftwrap.core.reading.reader import EVERYTHING, start_reading
from giftwrap.core.received.beginning import begin
from giftwrap.core.received.reading import read_model
from giftwrap.core.render.job import take
from giftwrap.core.render.planning import Limits
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.stage.fitting import fitted_set
from giftwrap.core.stage.standing import extent_of, line_up
from giftwrap.core.tests.models import bottle_glb, whole
from giftwrap.core.tests.samples import picture_job, portrait, three_lights
from giftwrap.core.things.making import shape_pack, thing_of
from giftwrap.core.things.outlines import outlines_of
from giftwrap.core.things.received import received_facts, shape_received
from giftwrap.core.things.silhouette import silhouette_svg
from giftwrap.core.things.starting import starting_pack

LEVEL = 80.0


def setUpModule() -> None:
    start_reading(EVERYTHING)


@cache
def taken_up() -> tuple[Pack, dict[str, bytes]]:
    """The bottle as a pack, said in full, and its files."""
    read = read_model(bottle_glb(), "bottle.glb")
    files = {_sha(read.data): read.data}
    pictures = []
    for material in read.materials:
        if material.picture is None:
            pictures.append(None)
            continue
        with Image.open(io.BytesIO(material.picture)) as picture:
            pictures.append((_sha(material.picture), picture.width / picture.height))
        files[_sha(material.picture)] = material.picture
    begun = begin(read, _sha(read.data), "bottle.glb", pictures, {})
    pack = dressed("bottle", Pack(form=begun.received), Palette(entries=begun.entries))
    return pack, files


def _sha(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def with_form(pack: Pack, **change: object) -> Pack:
    return pack.model_copy(update={"form": pack.received.model_copy(update=change)})


def with_part(pack: Pack, name: str, **change: object) -> Pack:
    parts = [p.model_copy(update=change) if p.name == name else p for p in pack.received.parts]
    return with_form(pack, parts=parts)


class ReceivedPackTests(TestCase):
    def setUp(self) -> None:
        self.pack, self.files = taken_up()

    def test_it_stands_on_the_table_as_large_as_it_was_made(self) -> None:
        thing = thing_of(self.pack, self.files)
        bounds = thing.bounds
        self.assertAlmostEqual(bounds.low[2], 0, places=3)
        self.assertAlmostEqual(bounds.high[2], 195, places=2)
        self.assertAlmostEqual(bounds.high[0], 34, delta=0.3)

    def test_its_contents_meet_the_glass_wherever_the_file_had_them(self) -> None:
        """The file's liquid overlaps the glass; what is poured fills the inside to its level."""
        shaped = shape_received(with_form(self.pack, fill_height=LEVEL), self.files)
        pieces = {piece.name: piece for piece in shaped.pieces}
        self.assertEqual(set(pieces), {"Bottle", "Bottle, wet", "Liquid, top", "Cap", "Front label"})
        wet = pieces["Bottle, wet"]
        self.assertEqual((wet.before, wet.part), ("Liquid", "Bottle"))
        self.assertIsInstance(wet.front, Clear)
        self.assertTrue(whole(pieces["Bottle"].mesh, wet.mesh).is_watertight)
        facts = received_facts(shaped)
        assert facts.contents_ml is not None
        self.assertAlmostEqual(facts.contents_ml, np.pi * 30**2 * (LEVEL - 5) / 1000, delta=0.3)
        self.assertEqual(facts.fill_height, LEVEL)

    def test_contents_that_light_wanders_in_face_the_wall(self) -> None:
        shaped = shape_received(with_part(self.pack, "Liquid", material=Cloudy()), self.files)
        pieces = {piece.name: piece for piece in shaped.pieces}
        self.assertEqual(pieces["Liquid at Bottle"].before, "Bottle")
        self.assertIsInstance(pieces["Liquid at Bottle"].front, Clear)

    def test_hidden_parts_are_not_there(self) -> None:
        pack = self.pack.model_copy(
            update={"parts": {"Liquid": PartState(hidden=True), "Cap": PartState(hidden=True)}}
        )
        names = {piece.name for piece in shape_received(pack, self.files).pieces}
        self.assertEqual(names, {"Bottle", "Bottle, wet", "Front label"})
        every = {part: PartState(hidden=True) for part in ("Bottle", "Liquid", "Cap", "Front label")}
        with self.assertRaisesRegex(PackError, "All parts are hidden"):
            shape_received(self.pack.model_copy(update={"parts": every}), self.files)

    def test_a_solid_bottle_is_given_a_wall_and_filled(self) -> None:
        solid = with_form(with_part(self.pack, "Cap", role="container", wall=2.0), fill_height=180.5)
        with self.assertRaisesRegex(ValueError, "Two parts are said to be the container"):
            type(solid.received).model_validate(solid.received.model_dump())
        alone = with_part(with_part(solid, "Bottle", role="left out"), "Front label", role="left out")
        facts = received_facts(shape_received(alone, self.files))
        assert facts.contents_ml is not None
        # the cap, 165.5 mm above the liquid's foot, is a cylinder of 16 mm: an inside of 14 from 2 mm up
        self.assertAlmostEqual(facts.contents_ml, np.pi * 14**2 * 13 / 1000, delta=0.03)

    def test_its_own_picture_is_printed_where_it_lies(self) -> None:
        thing = thing_of(self.pack, self.files)
        label = next(piece for piece in thing.pieces if piece.part == "Front label")
        assert label.panel is not None
        panel = thing.panels[label.panel]
        self.assertAlmostEqual(panel.width / panel.height, 752 / 650, places=3)
        self.assertEqual([p.width for p in panel.placements], [panel.width])

    def test_a_label_without_coordinates_is_laid_flat(self) -> None:
        pack = with_part(self.pack, "Front label", sheet=None, prints=[])
        panel = thing_of(pack, self.files).panels[0]
        self.assertAlmostEqual(panel.width, 2.2 * 34.2, delta=0.05)
        self.assertAlmostEqual(panel.height, 65, delta=0.05)
        label = next(p for p in thing_of(pack, self.files).pieces if p.part == "Front label")
        upright = np.corrcoef(label.mesh.uvs[:, 1], label.mesh.positions[:, 2])[0, 1]
        across = np.corrcoef(label.mesh.uvs[:, 0], label.mesh.positions[:, 0])[0, 1]
        self.assertGreater(min(upright, across), 0.99)

    def test_labels_are_laid_on_picked_places(self) -> None:
        panel = PickedPanel(part="Bottle", at=(0, 34, 60), width=40, height=30)
        pack = self.pack.model_copy(update={"panels": [panel]})
        shaped = shape_received(pack, self.files)
        face = next(piece for piece in shaped.pieces if piece.name == "label-1")
        self.assertEqual(shaped.panels[face.panel or 0], panel)
        self.assertGreater(float(face.mesh.positions[:, 1].min()), 20)
        self.assertLess(shaped.sheets[0].stretch.worst, 1e-3)

    def test_labels_that_cannot_lie_are_refused_with_the_place(self) -> None:
        for panel, words, place in (
            (PickedPanel(part="Lid", at=(0, 0, 0), width=9, height=9), "no “Lid” to label", "panels.0.part"),
            (
                PickedPanel(part="Cap", at=(0, -16, 185), width=90, height=60),
                "Only .* % of",
                "panels.0.width",
            ),
            (WrapPanel(from_base=9, width=9, height=9), "where one picks a place", "panels.0.kind"),
        ):
            with self.subTest(words), self.assertRaisesRegex(PackError, words) as raised:
                shape_received(self.pack.model_copy(update={"panels": [panel]}), self.files)
            self.assertEqual(raised.exception.place, place)

    def test_a_model_that_is_gone_is_said(self) -> None:
        with self.assertRaisesRegex(PackError, "model bottle.glb is not in the library") as raised:
            shape_received(self.pack, {})
        self.assertEqual(raised.exception.place, "form.model")

    def test_parts_are_drawn_apart_and_copied(self) -> None:
        apart = thing_of(self.pack.model_copy(update={"exploded": 40.0}), self.files)
        cap = next(piece for piece in apart.pieces if piece.part == "Cap")
        self.assertAlmostEqual(float(cap.mesh.positions[:, 2].min()), 170 + 2 * 40, delta=0.1)
        copied = self.pack.model_copy(update={"copies": [Copy(of="Cap", x=80)]})
        names = {piece.part for piece in thing_of(copied, self.files).pieces}
        self.assertIn("Cap-copy-1", names)

    def test_models_are_added_to_packs_of_every_kind(self) -> None:
        addition = Addition(received=self.pack.received, x=120, turn=30)
        for slug in ("cordial-500", "soap-carton"):
            base = starting_pack(slug)
            pack = base.model_copy(update={"added": [addition]})
            shaped = shape_pack(pack, self.files)
            with self.subTest(slug):
                self.assertIn("Bottle", shaped.parts)
                bottle = next(piece for piece in shaped.pieces if piece.part == "Bottle")
                middle = (bottle.mesh.positions.min(axis=0) + bottle.mesh.positions.max(axis=0)) / 2
                np.testing.assert_allclose(middle[:2], [120, 0], atol=0.2)
                label = next(piece for piece in shaped.pieces if piece.part == "Front label")
                self.assertEqual(shaped.panels[label.panel or 0].name, "Front label")
                self.assertGreater(shaped.thing.extent.high[0], 150)
        twice = starting_pack().model_copy(update={"added": [addition, addition]})
        with self.assertRaisesRegex(PackError, "Two parts are called “Bottle”"):
            shape_pack(twice, self.files)

    def test_it_is_drawn_small_and_from_two_sides(self) -> None:
        svg = silhouette_svg(self.pack, self.files)
        self.assertIn("<svg", svg)
        shaped = shape_received(self.pack, self.files, coarse=True)
        for side in outlines_of(shaped.pieces, 0.0, 90.0):
            outlines = dict(side)
            self.assertEqual(set(outlines), {"Bottle", "Liquid", "Cap", "Front label"})
            ring = outlines["Bottle"][0]
            np.testing.assert_allclose(np.ptp(ring, axis=0), [68, 180], atol=1.0)

    def test_it_stands_beside_other_packs(self) -> None:
        frame = Frame(packs={"bottle": self.pack}, photo_set=three_lights(), shot=portrait())
        things = {"bottle": thing_of(self.pack, self.files)}
        placed = line_up(frame, things)
        self.assertAlmostEqual(extent_of(placed).high[2], 195, delta=0.1)
        fitted_set(frame.photo_set, extent_of(placed))
        scene = compile_scene(frame, self.files)
        surfaces = {s.part: s for instance in scene.instances for s in instance.surfaces}
        self.assertIsNotNone(surfaces["Front label"].optics.texels)

    def test_light_meets_it(self) -> None:
        light = take(
            picture_job(self.pack, three_lights(), portrait(), self.files), Limits(samples=4)
        ).mean_light()
        self.assertTrue(np.isfinite(light).all())
        self.assertGreater(float(light.mean()), 0.01)


class DrawnPackTests(TestCase):
    def test_opaque_parts_take_what_is_printed(self) -> None:
        pack, files = taken_up()
        art = next(p.artwork for part in pack.received.parts for p in part.prints)
        printed = with_part(
            pack, "Cap", sheet=(50, 20), prints=[Placement(artwork=art, width=50)], material=Opaque()
        )
        thing = thing_of(printed, files)
        self.assertEqual(thing.panels[0].name, "Cap")
