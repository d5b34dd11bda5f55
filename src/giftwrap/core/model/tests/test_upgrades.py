"""Documents of every older version are read as what they were, to the picture.

`kept/` holds documents and pictures written by the release before version 3 of the pack, version 2 of set,
shot and frame: 48 × 60 px, 32 samples of seed 7, linear light in half precision.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any
from unittest import TestCase
from unittest.mock import patch

import numpy as np
from pydantic import ValidationError

from giftwrap.core.model import Frame, Linked, Pack, PartState, PhotoSet, Shot
from giftwrap.core.model.document import describe_invalid
from giftwrap.core.render.files import shelf
from giftwrap.core.render.film import Film
from giftwrap.core.render.job import PictureJob, expose_unit
from giftwrap.core.render.planning import WorkUnit
from giftwrap.core.render.renderer import Renderer

KEPT = Path(__file__).parent / "kept"
LABEL = (
    b'<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="20mm" viewBox="0 0 40 20">'
    b'<rect width="40" height="20" fill="#b3324c"/><circle cx="12" cy="10" r="6" fill="#fff"/></svg>'
)


def kept(name: str) -> Any:
    return json.loads((KEPT / f"{name}.json").read_text())


WORKED = ("grain", "fade", "film", "frosted", "sheen", "passes", "lacquer")
"""What materials did not have then."""


def _without(value: Any, *names: str) -> Any:
    """A document without some fields, wherever it has them."""
    if isinstance(value, list):
        return [_without(inner, *names) for inner in value]
    if isinstance(value, dict):
        return {name: _without(inner, *names) for name, inner in value.items() if name not in names}
    return value


class UpgradeTests(TestCase):
    def test_a_pack_of_version_1(self) -> None:
        old = kept("pack-1")
        pack = Pack.model_validate(old)
        self.assertEqual((pack.schema_version, pack.form.kind, pack.form.closure.kind), (3, "vessel", "cap"))
        self.assertEqual(pack.form.closure.height, old["closure"]["height"])
        self.assertEqual(pack.form.nominal_capacity_ml, 500)
        self.assertEqual(old["schema_version"], 1, "what was kept is not changed")

    def test_a_pack_of_version_2_keeps_everything(self) -> None:
        old = kept("pack-2")
        new = _without(Pack.model_validate(old).model_dump(mode="json"), *WORKED)
        own = ("body", "contents", "closure", "nominal_capacity_ml", "stands_on", "tracing")
        self.assertEqual({name: new["form"][name] for name in own}, {name: old[name] for name in own})
        rest = {name: value for name, value in old.items() if name not in (*own, "schema_version", "copies")}
        parts = {name: {**PartState().model_dump(), **state} for name, state in rest.pop("parts").items()}
        for panel in new["panels"]:
            names = ("tooth", "run", "developed", "part", "rounding", "outline", "registration")
            fresh = [panel.pop(name) for name in names]
            self.assertEqual(fresh, ["smooth", [], False, "body", 0, None, 0])
        self.assertEqual({name: new[name] for name in rest}, rest)
        self.assertEqual(new["parts"], parts)
        self.assertEqual(new["copies"][0]["material"]["metal"], "gold")

    def test_a_set_of_version_1_has_the_hero_in_the_middle(self) -> None:
        old = kept("set-1")
        photo_set = PhotoSet.model_validate(old)
        (standing,) = photo_set.standing
        self.assertEqual((standing.of.kind, standing.pose.x, standing.pose.turn), ("hero", 0, 0))
        new = photo_set.model_dump(mode="json")
        even = {"kind": "even", "tint": "#ffffff", **old["surround"]}
        paper = {"made_of": None, "other": None, **old["sweep"]}
        self.assertEqual([new["sweep"], new["surround"]], [paper, even])
        self.assertEqual([light["kind"] for light in new["lights"]], ["softbox"] * len(old["lights"]))
        for light, before in zip(new["lights"], old["lights"], strict=True):
            same = {name: before[name] for name in before if name in light and name != "untouched"}
            self.assertEqual({name: light[name] for name in same}, same)

    def test_a_set_of_version_2_lights_and_mirrors_as_it_did(self) -> None:
        old = kept("set-2")
        key, edge = PhotoSet.model_validate(old).lights
        self.assertEqual(
            [(one.standing, one.part) for one in edge.untouched], [(None, "sweep"), (None, "body")]
        )
        self.assertEqual([(one.standing, one.part) for one in edge.unreflected], [(None, None)])
        self.assertEqual((key.untouched, key.unreflected), ([], []))
        self.assertEqual((edge.width, edge.azimuth, edge.power_w), (90, 112, 1.6))
        for odd in ("no list", [None, "no light"], {"a": 1}):
            with self.assertRaises(ValidationError):
                PhotoSet.model_validate({**old, "lights": odd})

    def test_a_set_of_version_3_has_even_light_around_and_the_sweep_behind(self) -> None:
        old = kept("set-3")
        photo_set = PhotoSet.model_validate(old)
        self.assertEqual((photo_set.surround.kind, photo_set.surround.strength), ("even", 0.08))
        self.assertEqual((photo_set.behind.kind, photo_set.background), ("sweep", old["background"]))
        self.assertEqual(len(photo_set.lights), len(old["lights"]))
        with self.assertRaises(ValidationError):
            PhotoSet.model_validate({**old, "surround": 3})

    def test_a_shot_of_version_1_has_one_purpose(self) -> None:
        old = kept("shot-1")
        shot = Shot.model_validate(old)
        (purpose,) = shot.purposes
        self.assertEqual((purpose.width_px, purpose.height_px, purpose.seconds), (800, 1000, 90))
        self.assertEqual((shot.photo_set, shot.hero, shot.line_up), (None, None, None))
        self.assertEqual(shot.camera.azimuth, old["camera"]["azimuth"])

    def test_what_is_upgraded_is_read_again_as_it_is(self) -> None:
        for kind, name in (
            (Pack, "pack-1"),
            (Pack, "pack-2"),
            (PhotoSet, "set-1"),
            (PhotoSet, "set-2"),
            (PhotoSet, "set-3"),
            (Shot, "shot-1"),
        ):
            once = kind.model_validate(kept(name)).model_dump(mode="json")
            self.assertEqual(kind.model_validate(once).model_dump(mode="json"), once)

    def test_pictures_are_what_they_were(self) -> None:
        """Of frames as orders of old kept them: the same seed, the same pixels within rounding, by paths
        alone as then."""
        shelf.put(LABEL)
        paths_alone = patch.object(Renderer, "keep_light")
        paths_alone.start()
        self.addCleanup(paths_alone.stop)
        before = np.load(KEPT / "pictures.npz")
        for name in before.files:
            old = {"pack": kept(name), "photo_set": kept("set-1"), "shot": kept("shot-1")}
            job = PictureJob.of(Frame.model_validate(old), 48, 60, print_ppi=100)
            film = Film(48, 60)
            film.add(expose_unit(job, WorkUnit(0, 7, 0, 32, first=0, last=48 * 60)))
            apart = np.abs(film.mean_light() - before[name].astype(float))
            with self.subTest(name):
                self.assertLess(float(np.median(apart)), 4e-4, "half precision")
                self.assertLess(float(np.quantile(apart, 0.98)), 0.01)
                self.assertAlmostEqual(
                    float(film.mean_light().mean()), float(before[name].astype(float).mean()), delta=1e-3
                )

    def test_a_newer_document_is_refused_in_words(self) -> None:
        with self.assertRaises(ValidationError) as caught:
            Pack.model_validate({**kept("pack-2"), "schema_version": 9})
        message, place = describe_invalid(caught.exception)
        self.assertIn("newer release", message)
        self.assertEqual(place, "schema_version")

    def test_odd_versions_are_refused_and_not_followed(self) -> None:
        for odd in (None, "2", 0, -1, 1.5, [], {}):
            with self.assertRaises(ValidationError):
                Pack.model_validate({**kept("pack-2"), "schema_version": odd})

    def test_old_documents_with_broken_insides_are_refused_in_words(self) -> None:
        for change in ({"closure": "cap"}, {"body": None}, {"panels": {}}, {"parts": []}):
            with self.assertRaises(ValidationError) as caught:
                Pack.model_validate({**kept("pack-1"), **change})
            self.assertTrue(describe_invalid(caught.exception)[0])


class LinkTests(TestCase):
    def test_a_link_is_kept_as_it_is(self) -> None:
        data = Pack.model_validate(kept("pack-1")).model_dump(mode="json")
        data["form"]["body"]["material"] = {"kind": "linked", "entry": "Amber"}
        self.assertEqual(Pack.model_validate(data).form.body.material, Linked(entry="Amber"))
