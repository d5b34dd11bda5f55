"""A model taken up: names, roles, the palette; a newer file in its place; split, merged, resized."""

from __future__ import annotations

from dataclasses import replace
from unittest import TestCase

from giftwrap.core.errors import PackError
from giftwrap.core.model import Metal, Opaque, Pack, PickedPanel, Placement, Received, ReceivedPart
from giftwrap.core.model.material import Linked
from giftwrap.core.model.worked import Pictures
from giftwrap.core.received.beginning import Begun, KeptSurface, begin, merged, replaced, resized, split
from giftwrap.core.received.kept import BodyFacts, KeptModel, MeshFacts
from giftwrap.core.received.reading import ReadMaterial, ReadModel

MODEL, PICTURE = "a" * 64, "b" * 64
GOLD = Metal(metal="gold")


def body(mesh: int, low: float = 0.0, size: float = 10.0, **more: object) -> BodyFacts:
    ends = (low, low, low), (low + size, low + size, low + size)
    return BodyFacts(mesh, 12, *ends, size**3, **more)  # type: ignore[arg-type]


def model(*names: str, **at: float) -> ReadModel:
    meshes = tuple(MeshFacts(name, 0) for name in names)
    bodies = tuple(body(i, at.get(name, 20.0 * i)) for i, name in enumerate(names))
    return ReadModel(b"", meshes, bodies, (ReadMaterial("brass", GOLD, None),), 1.0, "+y", False, ("Read.",))


def kept(read: ReadModel) -> KeptModel:
    return KeptModel(read.meshes, read.bodies, (), ())


def begun(read: ReadModel, palette: dict[str, object] | None = None, picture: bool = False) -> Begun:
    pictures = [(PICTURE, 1.25) if picture else None for _ in read.materials]
    return begin(read, MODEL, "bottle.glb", pictures, palette or {})  # type: ignore[arg-type]


class BeginTests(TestCase):
    def test_parts_are_named_once_and_taken_for_what_they_say(self) -> None:
        parts = begun(model("Glass bottle", "juice", "Cap", "Cap", "")).received.parts
        self.assertEqual([p.name for p in parts], ["Glass bottle", "juice", "Cap", "Cap 2", "part 5"])
        self.assertEqual([p.role for p in parts], ["container", "contents", "closure", "closure", "part"])
        self.assertEqual([p.source for p in parts], ["Glass bottle", "juice", "Cap", "Cap", ""])

    def test_pictures_of_a_surface_lie_as_it_was_unwrapped(self) -> None:
        """As wide as the model's own coordinates say, and as deep as their directions."""
        read = model("lid")
        wide = replace(read, meshes=(replace(read.meshes[0], sheet=(8.0, 4.0)),), unit_mm=10.0)
        surface = KeptSurface(Pictures(gloss="c" * 64, relief="d" * 64), 0.02)
        (made,) = begin(wide, MODEL, "lid.glb", [None], {}, surfaces=[surface]).entries.values()
        grain = made.grain
        assert grain is not None
        self.assertEqual((grain.lies, grain.scale, grain.pattern), ("unwrapped", 80.0, surface.pictures))
        self.assertAlmostEqual(grain.depth, 1.6)
        repeated = KeptSurface(Pictures(colour="e" * 64))
        tiled = replace(wide, meshes=(replace(wide.meshes[0], repeats=True),))
        begun_ = begin(tiled, MODEL, "lid.glb", [("e" * 64, 1.0)], {}, surfaces=[repeated])
        (made,) = begun_.entries.values()
        assert made.grain is not None
        self.assertEqual((made.grain.share, made.grain.scale), (1.0, 80.0))
        self.assertEqual(begun_.received.parts[0].prints, [], "it is no label")
        (bare,) = begin(read, MODEL, "lid.glb", [None], {}, surfaces=[surface]).entries.values()
        self.assertIsNone(bare.grain)

    def test_there_is_one_container(self) -> None:
        parts = begun(model("bottle", "jar")).received.parts
        self.assertEqual([p.role for p in parts], ["container", "part"])

    def test_copies_are_left_out(self) -> None:
        read = model("a", "b")
        twin = ReadModel(
            b"", read.meshes, (body(0), body(1, copy_of=0)), read.materials, 1.0, "+y", False, ()
        )
        self.assertEqual([p.name for p in begun(twin).received.parts], ["a"])

    def test_materials_become_entries_of_the_palette(self) -> None:
        fresh = begun(model("a"))
        self.assertEqual(fresh.entries, {"brass": GOLD})
        self.assertEqual(fresh.received.parts[0].material, Linked(entry="brass"))
        same = begun(model("a"), {"brass": GOLD})
        self.assertEqual(same.entries, {})
        other = begun(model("a"), {"brass": Opaque()})
        self.assertEqual(other.entries, {"brass 2": GOLD})
        self.assertEqual(other.received.parts[0].material, Linked(entry="brass 2"))

    def test_a_picture_lies_on_a_sheet_of_its_own_proportions(self) -> None:
        read = model("label")
        painted = ReadModel(
            b"", (MeshFacts("label", 0, (0.08, 0.06)),), read.bodies, read.materials, 1000.0, "+y", True, ()
        )
        part = begun(painted, picture=True).received.parts[0]
        assert part.sheet is not None
        self.assertAlmostEqual(part.sheet[0] * part.sheet[1], 80 * 60)
        self.assertAlmostEqual(part.sheet[0] / part.sheet[1], 1.25)
        self.assertEqual(part.prints, [Placement(artwork=PICTURE, width=part.sheet[0])])

    def test_very_many_parts_are_taken_together(self) -> None:
        parts = begun(model(*(f"p{i}" for i in range(230)))).received.parts
        self.assertEqual(len(parts), 200)
        self.assertEqual(len(parts[-1].bodies), 31)


class ReplaceTests(TestCase):
    def test_a_newer_file_keeps_what_was_decided(self) -> None:
        before, after = model("Bottle", "Cap"), model("Cap", "Bottle", "Tag", Bottle=0.0, Cap=20.0, Tag=40.0)
        old = begun(before).received
        decided = old.parts[0].model_copy(
            update={"name": "Glass", "role": "container", "wall": 2.0, "material": Opaque()}
        )
        old = old.model_copy(update={"parts": [decided, old.parts[1]], "turn": 30.0, "unit_mm": 10.0})
        newer = replaced(old, begun(after).received, kept(before), kept(after))
        self.assertEqual([p.name for p in newer.parts], ["Cap", "Glass", "Tag"])
        self.assertEqual((newer.turn, newer.unit_mm), (30.0, 10.0))
        self.assertEqual((newer.parts[1].wall, newer.parts[1].bodies), (2.0, (1,)))
        self.assertEqual(newer.parts[1].material, Opaque())

    def test_parts_without_their_names_are_known_by_their_place(self) -> None:
        before, after = model("Bottle", "Cap"), model("mesh_0", "mesh_1")
        old = begun(before).received
        newer = replaced(old, begun(after).received, kept(before), kept(after))
        self.assertEqual([p.name for p in newer.parts], ["Bottle", "Cap"])

    def test_what_is_gone_is_said(self) -> None:
        before, after = model("Bottle", "Cap"), model("Bottle")
        newer = replaced(begun(before).received, begun(after).received, kept(before), kept(after))
        self.assertIn("It has nothing like “Cap” any more.", newer.notes)


class RemakeTests(TestCase):
    def setUp(self) -> None:
        part = ReceivedPart(name="all", bodies=(0, 1, 2), role="container", source="All")
        self.received = Received(model=MODEL, parts=[part, ReceivedPart(name="all 2", bodies=(3,))])
        self.bodies = [body(0), BodyFacts(0, 99, (0, 0, 0), (1, 1, 1), 1.0), body(0), body(1)]

    def test_a_part_is_split_into_its_pieces_and_taken_together_again(self) -> None:
        parted = split(self.received, 0, self.bodies)
        self.assertEqual([p.name for p in parted.parts], ["all", "all 3", "all 4", "all 2"])
        self.assertEqual(parted.parts[0].bodies, (1,))  # the one with most triangles
        self.assertEqual([p.role for p in parted.parts], ["container", "part", "part", "part"])
        again = merged(parted, [0, 1, 2])
        self.assertEqual(sorted(again.parts[0].bodies), [0, 1, 2])
        self.assertEqual([p.name for p in again.parts], ["all", "all 2"])

    def test_what_cannot_be_split_is_refused(self) -> None:
        with self.assertRaisesRegex(PackError, "hangs together in one piece"):
            split(self.received, 1, self.bodies)
        with self.assertRaisesRegex(PackError, "none with the number 8"):
            split(self.received, 7, self.bodies)

    def test_another_unit_keeps_labels_where_they_lie(self) -> None:
        part = ReceivedPart(
            name="a", bodies=(0,), sheet=(60, 40), prints=[Placement(artwork=PICTURE, x=3, y=1, width=30)]
        )
        panel = PickedPanel(part="a", at=(10, -20, 30), width=20, height=20)
        pack = Pack(form=Received(model=MODEL, parts=[part], fill_height=50), panels=[panel])
        larger = resized(pack, 10.0)
        form, label = larger.received, larger.panels[0]
        assert isinstance(label, PickedPanel)
        self.assertEqual((form.parts[0].sheet, form.fill_height), ((600, 400), 500))
        self.assertEqual(form.parts[0].prints[0], Placement(artwork=PICTURE, x=30, y=10, width=300))
        self.assertEqual((label.at, label.width), ((100, -200, 300), 20))
        with self.assertRaisesRegex(PackError, "too large or too small"):
            resized(pack, 1000.0)
