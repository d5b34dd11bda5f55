"""Colourways in the picture: they differ where they say, and nowhere else."""

from __future__ import annotations

from unittest import TestCase

import numpy as np

from giftwrap.core.model import (
    Clear,
    Colourway,
    Frame,
    Linked,
    OfPack,
    Opaque,
    Palette,
    Pose,
    Standing,
)
from giftwrap.core.render.film import Film
from giftwrap.core.render.renderer import Renderer
from giftwrap.core.scene.compile import compile_scene
from giftwrap.core.tests.samples import formed, portrait, three_lights
from giftwrap.core.things.starting import starting_pack
from giftwrap.core.things.thing import Extent

SIZE = (72, 60)
BOTH = Extent((-60.0, -36.0, 0.0), (140.0, 36.0, 215.0))


def two_packs() -> Frame:
    """A bottle whose cap is of the palette, and a jar that is not."""
    bottle = starting_pack("cordial-500")
    capped = formed(bottle, closure=bottle.form.closure.model_copy(update={"material": Linked(entry="Cap")}))
    standing = [
        Standing(id="bottle", of=OfPack(pack="bottle")),
        Standing(id="jar", of=OfPack(pack="jar"), pose=Pose(x=95)),
    ]
    shot = portrait(BOTH)
    return Frame(
        packs={"bottle": capped, "jar": starting_pack("jar-50")},
        photo_set=three_lights().model_copy(update={"standing": standing}),
        shot=shot,
        palette=Palette(entries={"Cap": Opaque(colour="#7a1f30")}),
    )


def taken(frame: Frame) -> Film:
    film = Film(*SIZE)
    film.add(Renderer(compile_scene(frame, {})).expose(frame.shot.camera, SIZE, samples=48, seed=4))
    return film


class ColourwayTests(TestCase):
    def test_a_palette_entry_changes_its_parts_alone(self) -> None:
        """The masks are the same, sample by sample; light changes where the cap is, and elsewhere hardly."""
        frame = two_packs()
        green = frame.model_copy(update={"colourway": Colourway(entries={"Cap": Opaque(colour="#1f7a30")})})
        before, after = taken(frame), taken(green)
        self.assertEqual(before.objects, after.objects)
        for one in before.objects:
            np.testing.assert_array_equal(
                before.share_of(one.part, one.instance), after.share_of(one.part, one.instance)
            )
        cap = before.share_of("closure", "bottle")
        apart = np.abs(after.mean_light() - before.mean_light()).mean(axis=-1)
        self.assertGreater(int((cap > 0.99).sum()), 8)
        self.assertGreater(float(apart[cap > 0.99].mean()), 0.02)
        self.assertLess(float(np.median(apart[cap == 0])), 0.0015)
        self.assertGreater(float(apart[cap > 0.99].mean() / apart[cap == 0].mean()), 15)

    def test_contents_and_fill_change_one_pack(self) -> None:
        frame = two_packs()
        contents = frame.packs["bottle"].form.contents.model_copy(
            update={"material": Clear(refractive_index=1.36, colour="#7a1f5a", depth=40)}
        )
        damson = frame.model_copy(
            update={"colourway": Colourway(contents={"bottle": contents}, fill={"bottle": 90.0})}
        )
        dressed = damson.shown_packs()
        self.assertEqual(dressed["bottle"].form.contents.fill_height, 90)
        self.assertEqual(dressed["bottle"].form.contents.material.colour, "#7a1f5a")
        self.assertEqual(dressed["jar"], frame.shown_packs()["jar"])
        before, after = taken(frame), taken(damson)
        jar = sum(before.share_of(one.part, "jar") for one in before.objects if one.instance == "jar") > 0.99
        apart = np.abs(after.mean_light() - before.mean_light()).mean(axis=-1)
        body = before.share_of("body", "bottle") > 0.9
        self.assertGreater(float(apart[body].mean() / apart[jar].mean()), 4)
