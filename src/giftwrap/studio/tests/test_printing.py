"""Runs, versions, templates and preflight by the API."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from PIL import Image

from giftwrap.core.reading.artwork import read_artwork
from giftwrap.core.tests.documents import document, rectangle
from giftwrap.studio.library.models import Artwork
from giftwrap.studio.tests.base import StudioTestCase

PAGE = document(
    f"0 0.2 0.8 0 k {rectangle(0, 0, 60, 40)} f /Spot0 cs 1 scn {rectangle(10, 10, 20, 20)} f",
    bleed=3,
    inks=("Foil",),
    pages=2,
)


class PrintingTests(StudioTestCase):
    def upload(self, data: bytes, name: str) -> dict[str, Any]:
        address = f"/api/jobs/{self.job.slug}/artwork"
        return self.client.post(address, {"file": SimpleUploadedFile(name, data)}).json()

    def label(self, sha256: str, **changes: Any) -> dict[str, Any]:
        placed = {"artwork": sha256, "x": 0, "y": 0, "width": 60, **changes.pop("placed", {})}
        return {"kind": "wrap", "from_base": 30, "width": 60, "height": 40, "placements": [placed], **changes}

    def picture(self, panel: dict[str, Any], *, looks: bool = False, **more: Any) -> np.ndarray:
        address = f"/api/panel-picture?ppi=100&looks={looks}"
        response = self.client.post(address, {"panel": panel, **more}, content_type="application/json")
        self.assertEqual(response.status_code, 200, response.content[:300])
        return np.asarray(Image.open(io.BytesIO(response.content)))

    def test_a_documents_pages_and_inks_are_told(self) -> None:
        made = self.upload(PAGE, "label.pdf")
        self.assertEqual((made["kind"], made["inks"], len(made["pages"])), ("pdf", ["Foil"], 2))
        self.assertAlmostEqual(made["width"], 60, places=3)
        self.assertEqual(Artwork.objects.get().inks, ["Foil"])

    def test_a_print_and_its_looks(self) -> None:
        sha256 = self.upload(PAGE, "label.pdf")["sha256"]
        panel = self.label(
            sha256, placed={"areas": {"Foil": "ink:Foil"}}, run=[{"kind": "ink"}, {"kind": "foil"}]
        )
        shown, looks = self.picture(panel), self.picture(panel, looks=True)
        self.assertEqual(shown.shape, looks.shape)
        inside, outside = (79, 79), (20, 200)
        self.assertEqual((looks[inside][2], looks[outside][2]), (255, 0))
        self.assertGreater(int(looks[outside][1]), int(looks[inside][1]), "foil is smoother")
        film = self.picture(self.label(sha256, stock={"kind": "clear"}, placed={"width": 30}))
        self.assertEqual(film.shape[2], 4)

    def test_strange_inks_and_pages_are_refused_with_their_place(self) -> None:
        sha256 = self.upload(PAGE, "label.pdf")["sha256"]
        foil = [{"kind": "ink"}, {"kind": "foil"}]
        for placed, words in (
            ({"areas": {"Foil": "ink:Gold"}}, "no spot ink “Gold”: it has Foil"),
            ({"page": 7}, "no page 7"),
        ):
            body = {"panel": self.label(sha256, placed=placed, run=foil)}
            response = self.client.post("/api/panel-picture", body, content_type="application/json")
            self.assertEqual(response.status_code, 422)
            self.assertIn(words, response.json()["message"])
            self.assertTrue(response.json()["place"].startswith("placements.0"))

    def test_a_palettes_versions_are_printed(self) -> None:
        first = self.upload(PAGE, "label.pdf")["sha256"]
        other = self.upload(document(f"1 0 0 0 k {rectangle(0, 0, 60, 40)} f"), "newer.pdf")["sha256"]
        versions = {first: {"files": [first, other], "shown": other}}
        panel = self.label(first)
        before, after = self.picture(panel), self.picture(panel, palette={"versions": versions})
        self.assertGreater(int(before[20, 200][0]), 200)
        self.assertLess(int(after[20, 200][0]), 60)

    def test_starting_runs(self) -> None:
        runs = self.client.get("/api/starting-runs").json()
        self.assertGreaterEqual(len(runs), 8)
        crest = next(run for run in runs if run["name"] == "Foil crest on cotton")
        self.assertEqual([layer["kind"] for layer in crest["run"]], ["ink", "foil", "emboss"])

    def test_templates(self) -> None:
        panel = self.label("0" * 64)
        panel["placements"] = []
        for form in ("svg", "pdf", "png", "dxf"):
            response = self.client.post(
                f"/api/template.{form}?bleed=2", {"panel": panel}, content_type="application/json"
            )
            self.assertEqual(response.status_code, 200)
            self.assertIn(f"template.{form}", response["Content-Disposition"])
            if form != "dxf":
                width = read_artwork(response.content, f"a.{form}").width
                self.assertAlmostEqual(width, 60 if form == "pdf" else 84, delta=0.1)
        for how, words in (("safe=40", "nothing of"), ("bleed=60", "Bleed takes")):
            response = self.client.post(
                f"/api/template.svg?{how}", {"panel": panel}, content_type="application/json"
            )
            self.assertEqual(response.status_code, 422)
            self.assertIn(words, response.json()["message"])

    def test_preflight_names_what_it_is_about(self) -> None:
        sha256 = self.upload(PAGE, "label.pdf")["sha256"]
        document_ = self.pack()["document"]
        document_["panels"] = [self.label(sha256, run=[{"kind": "ink"}, {"kind": "foil"}])]
        status, found = self.send("post", "/api/preflight", {"pack": document_, "panel": 0})
        self.assertEqual(status, 200, found)
        self.assertEqual([(one["level"], one["layer"]) for one in found][:1], [("wrong", 1)])
        self.assertIn("reaches the cut", found[1]["words"])
        status, refused = self.send("post", "/api/preflight", {"pack": document_, "panel": 5})
        self.assertEqual((status, refused["place"]), (422, "panel"))
