"""Sets of the demo with props on them, and their shots, put into `job.json` by the core's own arrangements.

Run it after a change to what props look like or how they rest: `PYTHONPATH=src .venv/bin/python
demo/stand_sets.py`.
"""

from __future__ import annotations

import json
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.utils.text import slugify

from giftwrap.core.model import Camera, Frame, Opaque, Point, Purpose, Shot, Standing, dressed
from giftwrap.core.model.arrangement import Arrangement, Rest, SetUp, SetUpName, Stand, StandProp
from giftwrap.core.model.photo_set import OtherPart
from giftwrap.core.model.prop import PropName
from giftwrap.core.stage.arranging import arranged
from giftwrap.core.stage.plan import plan_of
from giftwrap.core.stage.standing import line_up
from giftwrap.core.stage.starting import starting_set
from giftwrap.core.things.making import thing_of, things_in
from giftwrap.story import demo_story

JOB = Path(__file__).with_name("job.json")
ASIDE = 3000.0
"""Mm to the right where a prop gets its size before it is put where it belongs."""
DEEPER = 60.0
"""Mm by which a sweep is made deeper at a time."""
STORY, FILES = demo_story()
PACKS = {slugify(row["name"]): row["document"] for row in STORY["packs"]}
CORDIAL, DROPS, BALM = "quince-cordial-500-ml", "blossom-drops-30-ml", "quince-balm-50-ml"
WASH, SOAP = "hand-wash-300-ml", "quince-soap-carton"


class Table:
    """A set that is being laid, and the shot of it."""

    def __init__(self, background: str) -> None:
        self.frame = Frame.model_validate(
            {
                "packs": PACKS,
                "photo_set": starting_set()
                .model_copy(update={"standing": [], "background": background})
                .model_dump(),
                "shot": Shot(
                    camera=Camera(lens_mm=85, distance=1000, height=260, aim_height=120),
                    framed_by_hand=False,
                    purposes=[Purpose(width_px=1600, height_px=1200, samples=512, noise_percent=3.0)],
                ).model_dump(),
                "palette": STORY["palette"],
            }
        )

    def arrange(self, how: Arrangement) -> list[str]:
        """Do something to what stands; returns the keys of what is new."""
        before = {one.id for one in self.frame.photo_set.standing}
        things = things_in(self.frame, lambda pack: thing_of(pack, FILES, coarse=True))
        if isinstance(how, Stand):
            pack = dressed(how.pack, self.frame.packs[how.pack], self.frame.palette)
            things[how.pack] = thing_of(pack, FILES, coarse=True)
        self.put(**arranged(self.frame, how, things).__dict__)
        return [one.id for one in self.frame.photo_set.standing if one.id not in before]

    def put(self, **fields: Any) -> None:
        """Fields of the set."""
        photo_set = self.frame.photo_set.model_copy(update=fields)
        self.frame = self.frame.model_copy(update={"photo_set": photo_set})

    def shoot(self, exposure_ev: float = 0.0, *, by_hand: bool = False, **camera: Any) -> None:
        """Fields of the camera."""
        shot = self.frame.shot
        changes = {
            "camera": shot.camera.model_copy(update=camera),
            "grade": shot.grade.model_copy(update={"exposure_ev": exposure_ev}),
            "framed_by_hand": by_hand,
        }
        self.frame = self.frame.model_copy(update={"shot": shot.model_copy(update=changes)})

    def pose(self, name: str, **pose: float) -> None:
        """Fields of the pose of something."""

        def moved(one: Standing) -> Standing:
            return (
                one.model_copy(update={"pose": one.pose.model_copy(update=pose)}) if one.id == name else one
            )

        self.put(standing=[moved(one) for one in self.frame.photo_set.standing])

    def pack(self, key: str, x: float, y: float, turn: float) -> None:
        """Stand a pack on what is there."""
        (name,) = self.arrange(Stand(pack=key, x=x, y=y))
        self.pose(name, turn=turn)
        self.arrange(Rest(ids=[name]))

    def prop(self, what: PropName, x: float, y: float, turn: float = 0.0, **fields: Any) -> None:
        """Put a prop on what is there."""
        (name,) = self.arrange(StandProp(what=what, x=ASIDE, y=0))
        key = next(one.of.prop for one in self.frame.photo_set.standing if one.id == name)  # type: ignore[union-attr]
        props = self.frame.photo_set.props
        self.put(props={**props, key: props[key].model_copy(update=fields)})
        self.pose(name, x=x, y=y, **({"turn": turn} if turn else {}))
        self.arrange(Rest(ids=[name]))

    def deepen(self) -> None:
        """Move the sweep's wall back until nothing stands in its curve. What is wrong then may not be."""
        things = things_in(self.frame, lambda pack: thing_of(pack, FILES, coarse=True))
        placed = line_up(self.frame, things)
        while faults := plan_of(self.frame.photo_set, self.frame.shot, placed).faults:
            assert {one.what for one in faults} == {"curve"}, faults
            sweep = self.frame.photo_set.sweep
            self.put(sweep=sweep.model_copy(update={"back": sweep.back + DEEPER}))

    def light(self, what: SetUpName) -> None:
        """Hang a set-up."""
        self.arrange(SetUp(what=what))


def on_plinths() -> Table:
    """A bright line-up."""
    table = Table("#eadfcd")
    table.prop("arch", -104, 130, width=220, depth=60, height=330)
    table.prop("cylinder", -100, 10, width=150, depth=150, height=60)
    table.prop("cylinder", 52, -4, width=130, depth=130, height=26)
    table.prop("block", 196, 40, width=130, depth=120, height=110)
    table.pack(CORDIAL, -100, 10, 4)
    table.pack(BALM, 52, -4, -6)
    table.pack(DROPS, 196, 40, -10)
    table.prop("quince", -6, -118, 50)
    table.prop("blossom", 116, -84)
    table.prop("blossom", 90, -112, 70)
    table.light("soft-three")
    table.shoot(height=300, margin=0.19)
    return table


def balm_on_slate() -> Table:
    """A jar in dark field."""
    table = Table("#1c1c20")
    table.prop("slate", 0, 0, width=330, depth=240, height=16)
    table.pack(BALM, 0, -6, -8)
    table.prop("rock", -160, 100, 30, width=110, depth=90, height=80)
    table.prop("pebble", 82, -40)
    table.prop("pebble", 112, 10, 60)
    table.light("dark-field")
    table.shoot(height=190, margin=0.33)
    return table


def soap_on_walnut() -> Table:
    """A warm still life around a carton."""
    table = Table("#b08a60")
    table.prop("board", 0, 10, width=240, depth=240, height=16)
    table.pack(SOAP, 0, 18, -20)
    table.prop("plum", -96, 34, 40)
    table.prop("plum", -84, -30, 160)
    table.prop("plum", 142, 72)
    table.prop("leafy-twig", 112, -62, -14, width=140, depth=84, height=24)
    table.prop("cinnamon", -14, -92, 12)
    table.prop("cinnamon", -12, -68, 8)
    table.prop("hazelnut", -84, -74)
    table.prop("hazelnut", -148, -60, 70)
    table.prop("hazelnut", -134, -86, 20)
    table.light("warm-evening")
    table.shoot(0.9, height=230, azimuth=-4, margin=0.32)
    return table


def in_the_sun() -> Table:
    """A cordial in hard sun, and what of it falls through."""
    table = Table("#e2bf98")
    table.prop("block", -150, 140, width=110, depth=110, height=60)
    table.pack(CORDIAL, -84, 10, 14)
    table.prop("pear", -150, 140, 30)
    table.prop("quince", 96, 128)
    table.prop("leafy-twig", 60, -96, 8, width=130, depth=80, height=22)
    table.light("hard-sun")
    lights = table.frame.photo_set.lights
    table.put(lights=[one.model_copy(update={"azimuth": -80.0, "elevation": 36.0}) for one in lights])
    table.shoot(0.1, by_hand=True, distance=1180, height=430, azimuth=2, aim_x=34, aim_height=92)
    return table


def on_a_mirror() -> Table:
    """A pump bottle on a floor that mirrors it."""
    table = Table("#7f978c")
    floor, wall = Opaque(colour="#26332d", gloss=1.0, density=1.2), Opaque(colour="#8fa79b", gloss=0.0)
    sweep = {"made_of": floor, "other": OtherPart(way="up", at=2, made_of=wall)}
    table.put(sweep=table.frame.photo_set.sweep.model_copy(update=sweep))
    table.pack(WASH, 0, 0, -6)
    for number, (x, y) in enumerate(((-92, -30), (-70, -66), (96, -44), (70, -78), (118, -8))):
        table.prop("pebble", x, y, 40.0 * number)
    table.prop("leafy-twig", -96, 96, 24)
    table.light("soft-three")
    table.shoot(height=170, margin=0.18)
    return table


def among_quinces() -> Table:
    """Shallow focus."""
    table = Table("#cdbfa6")
    table.pack(CORDIAL, 0, 0, 4)
    for x, y in ((-110, -160), (150, 220), (60, 320)):
        table.prop("quince", x, y, 20)
    table.prop("pear", -170, 260)
    table.prop("leafy-twig", 130, -150, 12)
    table.prop("log-slice", -190, 120)
    table.light("window")
    table.shoot(height=200, lens_mm=100, f_number=1.8, margin=0.16, focus=Point(y=-36, z=90))
    return table


SETS: dict[str, tuple[Callable[[], Table], str]] = {
    "On plinths": (on_plinths, CORDIAL),
    "Balm on slate": (balm_on_slate, BALM),
    "Soap on walnut": (soap_on_walnut, SOAP),
    "In the sun": (in_the_sun, CORDIAL),
    "On a mirror": (on_a_mirror, WASH),
    "Among quinces": (among_quinces, CORDIAL),
}


def main(names: list[str]) -> None:
    """Write all of them, or those that are named, into the job."""
    job = json.loads(JOB.read_text())
    for name in names or SETS:
        lay, hero = SETS[name]
        table = lay()
        table.deepen()
        frame = table.frame
        shot = frame.shot.model_copy(update={"photo_set": slugify(name), "hero": hero})
        for kind, document in (("sets", frame.photo_set), ("shots", shot)):
            row = {"name": name, "document": document.model_dump(mode="json", exclude_none=True)}
            job[kind] = [*(r for r in job[kind] if r["name"] != name), row]
    JOB.write_text(json.dumps(job, indent=1, ensure_ascii=False) + "\n")


if __name__ == "__main__":
    main(sys.argv[1:])
