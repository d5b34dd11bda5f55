"""What stands, in which colours: dressing packs, line-ups, groups; what is said when something is gone."""

from __future__ import annotations

from typing import Any
from unittest import TestCase

from pydantic import ValidationError

from giftwrap.core.errors import PackError
from giftwrap.core.model import (
    Clear,
    Cloudy,
    Colourway,
    Contents,
    Frame,
    Group,
    LineUp,
    Linked,
    Metal,
    OfHero,
    OfPack,
    Opaque,
    Pack,
    Palette,
    Pose,
    Standing,
    dressed,
)
from giftwrap.core.model.document import describe_invalid
from giftwrap.core.tests.samples import formed, portrait, three_lights
from giftwrap.core.things.starting import starting_pack

AMBER = Clear(colour="#9a5a1e", depth=4)
PALETTE = Palette(entries={"Glass": AMBER, "Cap": Metal(metal="gold"), "Cream": Cloudy()})


def linked_pack() -> Pack:
    """A bottle whose glass and cap are linked to the palette."""
    pack = starting_pack()
    body = pack.form.body.model_copy(update={"material": Linked(entry="Glass")})
    closure = pack.form.closure.model_copy(update={"material": Linked(entry="Cap")})
    return formed(pack, body=body, closure=closure)


def frame(packs: dict[str, Pack] | None = None, **changes: Any) -> Frame:
    """A frame; `changes` of its set, and of its shot by `shot`."""
    shot = portrait().model_copy(update=changes.pop("shot", {}))
    more = {name: changes.pop(name) for name in ("palette", "colourway") if name in changes}
    photo_set = three_lights().model_copy(update=changes)
    return Frame(packs=packs or {"bottle": starting_pack()}, photo_set=photo_set, shot=shot, **more)


class DressingTests(TestCase):
    def test_two_parts_of_one_entry_are_linked(self) -> None:
        pack = linked_pack()
        worn = dressed("bottle", pack, PALETTE)
        self.assertEqual((worn.form.body.material, worn.form.closure.material.metal), (AMBER, "gold"))
        green = Palette(entries={**PALETTE.entries, "Glass": Clear(colour="#225533")})
        self.assertEqual(dressed("bottle", pack, green).form.body.material.colour, "#225533")
        self.assertEqual(pack.form.body.material, Linked(entry="Glass"), "the pack keeps its link")

    def test_a_pack_without_links_is_itself(self) -> None:
        pack = starting_pack()
        self.assertIs(dressed("bottle", pack, PALETTE), pack)

    def test_a_missing_entry_is_named_with_its_place(self) -> None:
        with self.assertRaisesRegex(PackError, "“Cap”, which the job's palette does not have") as caught:
            dressed("bottle", linked_pack(), Palette(entries={"Glass": AMBER}))
        self.assertEqual(caught.exception.place, "form.closure.material")

    def test_an_entry_that_cannot_stand_there_is_named(self) -> None:
        glassy = Palette(entries={**PALETTE.entries, "Cap": AMBER})  # caps are not made of clear materials
        with self.assertRaisesRegex(PackError, "cannot be made of “Cap”") as caught:
            dressed("bottle", linked_pack(), glassy)
        self.assertEqual(caught.exception.place, "form.closure.material")

    def test_a_colourway_replaces_entries_artwork_contents_and_fill(self) -> None:
        pack, old, new = linked_pack(), "a" * 64, "b" * 64
        panel = pack.panels[0].model_copy(
            update={"placements": [{"artwork": old, "x": 0.0, "y": 0.0, "width": 20.0}]}
        )
        pack = Pack.model_validate(pack.model_copy(update={"panels": [panel]}).model_dump(mode="json"))
        berry = Contents(fill_height=90, material=Clear(colour="#8a1030"))
        colourway = Colourway(
            entries={"Cap": Opaque(colour="#111111")},
            artwork={old: new},
            contents={"bottle": berry, "jar": Contents(fill_height=5)},
            fill={"bottle": 77},
        )
        worn = dressed("bottle", pack, PALETTE, colourway)
        self.assertEqual(worn.form.closure.material.colour, "#111111")
        self.assertEqual(worn.panels[0].placements[0].artwork, new)
        self.assertEqual(
            (worn.form.contents.material.colour, worn.form.contents.fill_height), ("#8a1030", 77)
        )
        self.assertEqual(worn.form.body.material, AMBER, "what it does not name is as it was")

    def test_a_colourway_of_another_job_names_the_entry(self) -> None:
        with self.assertRaisesRegex(
            PackError, "replaces “Lid”, which the job's palette does not have"
        ) as caught:
            dressed("bottle", linked_pack(), PALETTE, Colourway(entries={"Lid": Opaque()}))
        self.assertEqual(caught.exception.place, "entries.Lid")


class StandingTests(TestCase):
    def test_the_hero_is_the_first_pack_unless_another_is_chosen(self) -> None:
        packs = {"bottle": starting_pack(), "jar": starting_pack("jar-50")}
        self.assertEqual(frame(packs).hero(), "bottle")
        self.assertEqual(list(frame(packs, shot={"hero": "jar"}).shown_packs()), ["jar"])
        with self.assertRaisesRegex(PackError, "“tin”, which is not in the job any more"):
            frame(packs, shot={"hero": "tin"}).hero()

    def test_a_standing_pack_that_is_gone_is_named(self) -> None:
        lost = Standing(id="left", of=OfPack(pack="tin"))
        with self.assertRaisesRegex(PackError, "“left” on the set is the pack “tin”") as caught:
            frame(standing=[Standing(id="hero", of=OfHero()), lost]).shown_packs()
        self.assertEqual(caught.exception.place, "photo_set.standing.1.of")

    def test_a_line_up_chooses_what_stands(self) -> None:
        standing = [Standing(id=f"n{i}", of=OfHero(), pose=Pose(x=90 * i)) for i in range(4)]
        line_ups = {"pair": LineUp(name="Pair", standing=["n1", "n3", "gone"])}
        one = frame(standing=standing, line_ups=line_ups, shot={"line_up": "pair"})
        self.assertEqual([s.id for s in one.standing()], ["n1", "n3"])
        with self.assertRaisesRegex(PackError, "line-up “trio”"):
            frame(standing=standing, shot={"line_up": "trio"}).standing()

    def test_what_is_hidden_alone_or_with_its_group_does_not_stand(self) -> None:
        standing = [
            Standing(id="a", of=OfHero(), group="inner"),
            Standing(id="b", of=OfHero(), hidden=True),
            Standing(id="c", of=OfHero()),
        ]
        groups = {"inner": Group(name="Inner", group="outer"), "outer": Group(name="Outer", hidden=True)}
        self.assertEqual([s.id for s in frame(standing=standing, groups=groups).standing()], ["c"])


class RefusalTests(TestCase):
    def refused(self, **changes: Any) -> tuple[str, str]:
        data = three_lights().model_dump(mode="json") | changes
        with self.assertRaises(ValidationError) as caught:
            type(three_lights()).model_validate(data)
        return describe_invalid(caught.exception)

    def test_groups_do_not_lie_in_a_circle(self) -> None:
        groups = {
            "a": {"name": "Left", "group": "b"},
            "b": {"name": "Right", "group": "c"},
            "c": {"name": "Back", "group": "a"},
        }
        message, place = self.refused(groups=groups)
        self.assertIn("“Left” in “Right” in “Back” in “Left”", message)
        self.assertEqual(place, "groups.a.group")
        self.assertIn("“Own” in “Own”", self.refused(groups={"o": {"name": "Own", "group": "o"}})[0])

    def test_unknown_groups_and_twins_are_named(self) -> None:
        hero = {"id": "hero", "of": {"kind": "hero"}}
        message, place = self.refused(standing=[{**hero, "group": "shelf"}])
        self.assertIn("no group “shelf”", message)
        self.assertEqual(place, "standing.0.group")
        message, place = self.refused(standing=[hero, hero])
        self.assertIn("called “hero”", message)
        self.assertEqual(place, "standing.1.id")
